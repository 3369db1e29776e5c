<script setup lang="ts">
/** The scale of tones: a histogram of lightness, the cuts that part it, and which tones are left to the cloth. */
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import type { ColoursSettings, Tones } from "@/api/types";
import AppButton from "@/ui/AppButton.vue";
import AppSelect from "@/ui/AppSelect.vue";

const props = defineProps<{ tones: Tones; settings: ColoursSettings }>();
const emit = defineEmits<{ move: [change: Partial<ColoursSettings>]; settle: [change: Partial<ColoursSettings>] }>();
const { t } = useI18n();
const WIDTH = 262;
const BARS = 52;
const STRIP = 22;
const CLOSEST = 1;
const KEY_STEP = 1;
const SPACINGS = ["best", "evenly", "by_area"] as const;
const spacings = computed(() => SPACINGS.map((value) => ({ value, label: t(`tones.spacings.${value}`) })));
const cuts = ref<number[]>([...props.tones.thresholds]);
const held = ref(-1);
const svg = ref<SVGSVGElement>();
watch(() => props.tones.thresholds, (now) => { if (held.value < 0) cuts.value = [...now]; });

const x = (light: number): number => (light / 100) * WIDTH;
const bars = computed(() => {
  const most = Math.max(...props.tones.histogram, 1e-9);
  const width = WIDTH / props.tones.histogram.length;
  // By the square root, so that a large even ground does not flatten all else.
  return props.tones.histogram.map((share, i) => ({ x: i * width, width: width - 0.6, height: Math.sqrt(share / most) * (BARS - 4) }));
});
const edges = computed(() => [0, ...cuts.value, 100]);

function put(light: number): void {
  const at = held.value;
  const low = (cuts.value[at - 1] ?? 0) + CLOSEST;
  const high = (cuts.value[at + 1] ?? 100) - CLOSEST;
  cuts.value = cuts.value.map((cut, i) => (i === at ? Math.round(Math.min(high, Math.max(low, light)) * 10) / 10 : cut));
}
function down(at: number, event: PointerEvent): void {
  (event.currentTarget as Element).setPointerCapture(event.pointerId);
  held.value = at;
}
function drag(event: PointerEvent): void {
  const box = svg.value?.getBoundingClientRect();
  if (held.value < 0 || !box) return;
  put(((event.clientX - box.left) / box.width) * 100);
  emit("move", { thresholds: cuts.value });
}
function up(): void {
  if (held.value < 0) return;
  held.value = -1;
  emit("settle", { thresholds: cuts.value });
}
function key(at: number, event: KeyboardEvent): void {
  const way = { ArrowLeft: -KEY_STEP, ArrowRight: KEY_STEP, ArrowDown: -KEY_STEP, ArrowUp: KEY_STEP }[event.key];
  if (way === undefined) return;
  event.preventDefault();
  event.stopPropagation();
  held.value = at;
  put((cuts.value[at] ?? 0) + way);
  up();
}
/** Which tones are bare is said from what is shown: lines and a shade leaves the lightest one bare by itself. */
function toggle(tone: number): void {
  const bare = props.tones.bare.flatMap((is, i) => ((i === tone ? !is : is) ? [i] : []));
  emit("settle", { bare });
}
</script>

<template>
  <section class="tones" :aria-label="t('tones.title')">
    <h3>{{ t("tones.title") }}</h3>
    <svg ref="svg" :viewBox="`0 0 ${WIDTH} ${BARS + STRIP + 8}`" @pointermove="drag" @pointerup="up" @pointercancel="up">
      <rect v-for="(bar, i) in bars" :key="i" :x="bar.x" :y="BARS - bar.height" :width="bar.width" :height="bar.height" class="bar" />
      <rect
        v-for="(colour, i) in tones.colours" :key="`t${i}`" :x="x(edges[i] ?? 0)" :y="BARS" :height="STRIP"
        :width="Math.max(0, x(edges[i + 1] ?? 100) - x(edges[i] ?? 0))" :fill="colour" :class="{ bare: tones.bare[i] }"
      />
      <g
        v-for="(cut, i) in cuts" :key="`c${i}`" class="cut" :class="{ held: held === i }" role="slider" tabindex="0" aria-valuemin="0" aria-valuemax="100"
        :aria-valuenow="Math.round(cut)" :aria-label="t('tones.threshold', { one: i + 1, other: i + 2 })" :transform="`translate(${x(cut)} 0)`"
        @pointerdown="down(i, $event)" @keydown="key(i, $event)"
      >
        <rect x="-9" y="0" width="18" :height="BARS + STRIP + 8" fill="transparent" />
        <line y1="0" :y2="BARS + STRIP + 8" />
        <rect x="-5" :y="BARS - 6" width="10" height="13" rx="1.5" class="grip" />
      </g>
    </svg>
    <ul>
      <li v-for="(colour, i) in tones.colours" :key="i">
        <button
          type="button" :style="tones.bare[i] ? {} : { background: colour }" :class="{ bare: tones.bare[i] }" :aria-pressed="tones.bare[i]"
          :title="t(tones.bare[i] ? 'tones.cut' : 'tones.bare', { number: i + 1 })" :aria-label="t(tones.bare[i] ? 'tones.cut' : 'tones.bare', { number: i + 1 })"
          @click="toggle(i)"
        >
          {{ tones.bare[i] ? t("tones.cloth") : "" }}
        </button>
      </li>
    </ul>
    <p class="soft">{{ t("tones.hint") }}</p>
    <AppButton v-if="settings.thresholds.length" small @click="emit('settle', { thresholds: [] })">{{ t("tones.again") }}</AppButton>
    <AppSelect v-else :model-value="settings.spacing" :label="t('tones.spacing')" :options="spacings" @update:model-value="emit('settle', { spacing: $event })" />
  </section>
</template>

<style scoped>
.tones { display: grid; gap: 8px; }
svg { width: 100%; touch-action: none; overflow: visible; }
.bar { fill: var(--stitch); }
.bare { opacity: 0.25; }
.cut { cursor: ew-resize; }
.cut line { stroke: var(--seam); stroke-width: 1.5; }
.grip { fill: var(--ink); stroke: #fff; }
.cut:hover .grip, .held .grip { fill: var(--seam); }
ul { list-style: none; margin: 0; padding: 0; display: flex; gap: 4px; }
li { flex: 1; }
button { width: 100%; height: 26px; border: 1px solid var(--edge); border-radius: 2px; cursor: pointer; font-size: 12px; }
button.bare { opacity: 1; border: 1px dashed var(--stitch); color: var(--soft); background: repeating-linear-gradient(135deg, var(--paper) 0 5px, var(--hover) 5px 7px); }
</style>
