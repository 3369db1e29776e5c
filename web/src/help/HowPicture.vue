<script setup lang="ts">
/** What a step does, drawn: the harbour's light on its rock. */
import { computed } from "vue";

const props = defineProps<{ step: string }>();
const SEA = "M6 78q14-7 27-3t27 1 34-2v20H6z";
const ROCK = "M20 88q8-16 30-17t32 17z";
const TOWER = "M41 34h18l5 40H36z";
const BANDS = "M40 44h20l1.200 10H38.800zM37.600 62h24.800l1.500 11H36.100z";
const LAMP = "M43 22h14v12H43z";
const ROOF = "M41 22q9-15 18 0z";
const LAYERS = [["#2f5f7e", SEA], ["#25303a", `${ROCK}${LAMP}`], ["#f3e9d4", TOWER], ["#c8442e", `${BANDS}${ROOF}`]] as const;
const apart = computed(() => (props.step === "layers" ? 1 : 0));
const sheets = [["#2f5f7e", SEA, 4, 52], ["#25303a", ROCK, 52, 52], ["#c8442e", `${BANDS}${ROOF}`, 28, 4]] as const;
</script>

<template>
  <svg viewBox="0 0 100 100" aria-hidden="true">
    <template v-if="step === 'sheets'">
      <g v-for="([colour, path, x, y], i) in sheets" :key="i" :transform="`translate(${x} ${y})`">
        <rect width="44" height="44" rx="2" :fill="colour" opacity="0.35" stroke="var(--frame)" />
        <path :d="path" :fill="colour" stroke="var(--paper)" stroke-width="1.500" transform="translate(1 1) scale(0.42)" />
      </g>
    </template>
    <template v-else-if="step === 'export'">
      <path d="M16 4h52l18 18v74H16z" fill="var(--paper)" stroke="var(--frame)" stroke-width="1.500" />
      <path d="M68 4v18h18" fill="none" stroke="var(--frame)" stroke-width="1.500" />
      <path v-for="([colour, path], i) in LAYERS" :key="i" :d="path" fill="none" :stroke="colour === '#f3e9d4' ? '#b3a58a' : colour" stroke-width="2" transform="translate(22 24) scale(0.580 0.620)" />
    </template>
    <template v-else-if="step === 'lines'">
      <path v-for="([colour, path], i) in LAYERS" :key="i" :d="path" fill="none" :stroke="colour === '#f3e9d4' ? '#b3a58a' : colour" stroke-width="1.300" />
      <g fill="var(--paper)" stroke="#b8336a" stroke-width="1.200">
        <rect v-for="[x, y] in [[41, 34], [59, 34], [64, 74], [36, 74], [43, 22], [57, 22], [20, 88], [82, 88]]" :key="`${x}${y}`" :x="x! - 1.6" :y="y! - 1.6" width="3.200" height="3.200" />
      </g>
    </template>
    <template v-else>
      <rect v-if="step === 'picture'" x="2" y="2" width="96" height="96" fill="#cfe0e6" />
      <path v-if="step === 'picture'" d="M2 70h96v28H2z" fill="#bcd2d6" />
      <rect v-if="step === 'background'" x="2" y="2" width="96" height="96" fill="none" stroke="var(--stitch)" stroke-dasharray="3 3" />
      <g v-for="([colour, path], i) in LAYERS" :key="i" :transform="apart ? `translate(${-9 + i * 6} ${9 - i * 6})` : undefined">
        <path :d="path" :fill="colour" :stroke="apart ? 'var(--paper)' : colour === '#f3e9d4' ? '#b3a58a' : 'none'" :stroke-width="apart ? 1.5 : 0.7" />
      </g>
      <rect v-if="!apart" x="46" y="25" width="8" height="6" fill="#f2c14e" />
      <template v-if="step === 'colours'">
        <circle v-for="([colour], i) in LAYERS" :key="i" cx="90" :cy="14 + i * 14" r="5.500" :fill="colour" stroke="var(--frame)" />
      </template>
      <template v-if="step === 'check'">
        <path d="M59 34 64 74" fill="none" stroke="#b8336a" stroke-width="2.200" />
        <circle cx="64" cy="74" r="5" fill="none" stroke="#b8336a" stroke-width="2" />
        <path d="M78 10 64 24l-3 9 9-3 14-14z" fill="var(--paper)" stroke="var(--ink)" stroke-width="1.600" />
      </template>
    </template>
  </svg>
</template>
