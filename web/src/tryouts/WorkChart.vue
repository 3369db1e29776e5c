<script setup lang="ts">
/** Try-outs by work and likeness; a line joins those that nothing beats. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useTryOutName } from "@/composables/useTryOutName";
import { useTryOuts } from "@/stores/tryOuts";

const { t } = useI18n();
const tries = useTryOuts();
const nameOf = useTryOutName();
const WIDTH = 460;
const HEIGHT = 210;
const [LEFT, RIGHT, TOP, BOTTOM] = [34, 18, 16, 30];
const BOX = 22;

const done = computed(() => tries.all.filter((one) => one.tried));
const most = computed(() => Math.max(1, ...done.value.map((one) => one.tried?.minutes ?? 0)));
const range = computed(() => {
  const values = done.value.map((one) => one.tried?.likeness ?? 0);
  const [low, high] = [Math.min(...values, 100), Math.max(...values, 0)];
  return high - low < 10 ? { low: low - 5, high: high + 5 } : { low, high };
});
/** Work by its square root: most try-outs are little work, and lie apart so. */
const x = (minutes: number): number => LEFT + BOX / 2 + Math.sqrt(minutes / most.value) * (WIDTH - LEFT - RIGHT - BOX);
const y = (likeness: number): number =>
  HEIGHT - BOTTOM - BOX / 2 - ((likeness - range.value.low) / (range.value.high - range.value.low)) * (HEIGHT - TOP - BOTTOM - BOX);
const front = computed(() =>
  done.value.filter((one) => !tries.beaten.has(one.letter)).sort((a, b) => (a.tried?.minutes ?? 0) - (b.tried?.minutes ?? 0)),
);
const line = computed(() => front.value.map((one) => `${x(one.tried?.minutes ?? 0)},${y(one.tried?.likeness ?? 0)}`).join(" "));
/** The picked one is drawn last, over the others. */
const drawn = computed(() => [...done.value].sort((a, b) => Number(a.letter === tries.picked) - Number(b.letter === tries.picked)));
</script>

<template>
  <svg class="chart" :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="img" :aria-label="t('tryouts.chart')">
    <path :d="`M${LEFT} ${TOP}V${HEIGHT - BOTTOM}H${WIDTH - RIGHT}`" class="axis" />
    <text :x="LEFT" :y="HEIGHT - 10" class="word">{{ t("tryouts.littleWork") }}</text>
    <text :x="WIDTH - RIGHT" :y="HEIGHT - 10" class="word" text-anchor="end">{{ t("tryouts.muchWork") }}</text>
    <text :transform="`translate(20 ${HEIGHT - BOTTOM}) rotate(-90)`" class="word">{{ t("tryouts.moreLike") }} →</text>
    <polyline :points="line" class="front" />
    <g
      v-for="one in drawn"
      :key="one.letter"
      class="place"
      :class="{ picked: one.letter === tries.picked, beaten: tries.beaten.has(one.letter) }"
      :transform="`translate(${x(one.tried?.minutes ?? 0)} ${y(one.tried?.likeness ?? 0)})`"
      @click="tries.picked = one.letter"
    >
      <title>{{ nameOf(one) }}</title>
      <rect :x="-BOX / 2" :y="-BOX / 2" :width="BOX" :height="BOX" />
      <text y="5" text-anchor="middle">{{ one.letter }}</text>
    </g>
  </svg>
</template>

<style scoped>
.chart { background: var(--card); border: 1px solid var(--line); min-height: 0; width: 100%; height: 100%; }
.axis { fill: none; stroke: var(--stitch); }
.word { font-size: 11.5px; fill: var(--soft); }
.front { fill: none; stroke: var(--seam); stroke-dasharray: 4 3; }
.place { cursor: pointer; }
.place rect { fill: var(--paper); stroke: var(--ink); }
.place text { font: 600 13px var(--heading); fill: var(--ink); }
.beaten rect { fill: var(--felt); stroke: var(--stitch); }
.beaten text { fill: var(--soft); }
.picked rect { fill: var(--seam); stroke: var(--seam); }
.picked text { fill: #fff; }
</style>
