<script setup lang="ts">
/** The layers cut through at the seam, seen from the side, on the stage's own scale. Pointed at, it says what lies there in words. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Bar } from "@/api/types";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";

const props = defineProps<{ bars: Bar[] }>();
const { t } = useI18n();
const stage = useStage();
const job = useJob();

const BASE_DEPTH = 9;
const BASE_GAP = 3;
const MARGIN = 10;
const upright = computed(() => stage.axis === "x");
/** The seam runs along the other axis. */
const offset = computed(() => (upright.value ? stage.view.y : stage.view.x));
const extent = computed(() => (upright.value ? stage.size.height : stage.size.width));
const base = computed(() => job.make?.layers.base ?? "#ffffff");
const most = computed(() => Math.max(1, ...props.bars.map((bar) => bar.below + 1)));
const film = computed(() => Math.min(11, Math.max(4, 40 / most.value)));

const rects = computed(() =>
  props.bars.map((bar) => {
    const start = bar.start * stage.view.scale + offset.value;
    const stop = bar.stop * stage.view.scale + offset.value;
    const depth = MARGIN + BASE_DEPTH + BASE_GAP + bar.below * film.value;
    return { start, length: Math.max(0.6, stop - start), depth, colour: job.result?.layers[bar.layer]?.colour ?? "#888" };
  }),
);

/** How many films lie over each other, written where there is room for it. */
const counts = computed(() => {
  const edges = [...new Set(props.bars.flatMap((bar) => [bar.start, bar.stop]))].sort((a, b) => a - b);
  const runs: { start: number; stop: number; films: number }[] = [];
  for (let i = 0; i + 1 < edges.length; i++) {
    const [start, stop] = [edges[i] as number, edges[i + 1] as number];
    const middle = (start + stop) / 2;
    const films = Math.max(0, ...props.bars.filter((b) => b.start <= middle && middle <= b.stop).map((b) => b.below + 1));
    const last = runs.at(-1);
    if (last && last.films === films && Math.abs(last.stop - start) < 1e-6) last.stop = stop;
    else runs.push({ start, stop, films });
  }
  return runs
    .filter((run) => run.films > 0 && (run.stop - run.start) * stage.view.scale > 15)
    .map((run) => ({ films: run.films, at: ((run.start + run.stop) / 2) * stage.view.scale + offset.value }))
    .filter(({ at }) => at > 24 && at < extent.value - 4);
});
const words = computed(() => {
  const layers = job.result?.layers ?? [];
  const names = [...new Set(props.bars.map((bar) => bar.layer))].map((i) => layers[i]?.name ?? "");
  return names.length ? `${t("edge.stack", { names: names.join(t("edge.then")) })} ${t("edge.most", most.value)}` : t("edge.nothing");
});
const textAt = computed(() => MARGIN + BASE_DEPTH + BASE_GAP + most.value * film.value + 5);
</script>

<template>
  <figure class="edge" :class="stage.axis" :aria-label="t('edge.label')" tabindex="0">
    <svg width="100%" height="100%" aria-hidden="true">
      <rect :x="upright ? MARGIN : 0" :y="upright ? 0 : MARGIN" :width="upright ? BASE_DEPTH : '100%'" :height="upright ? '100%' : BASE_DEPTH" :fill="base" stroke="#0004" stroke-width="0.7" />
      <rect
        v-for="(rect, i) in rects"
        :key="i"
        :x="upright ? rect.depth : rect.start"
        :y="upright ? rect.start : rect.depth"
        :width="upright ? film : rect.length"
        :height="upright ? rect.length : film"
        :fill="rect.colour"
        stroke="#0005"
        stroke-width="0.7"
      />
      <text
        v-for="(count, i) in counts"
        :key="`c${i}`"
        :x="upright ? textAt : count.at"
        :y="upright ? count.at : textAt + 9"
        :text-anchor="upright ? 'start' : 'middle'"
        :dominant-baseline="upright ? 'middle' : 'auto'"
      >{{ count.films }}</text>
    </svg>
    <span class="unit" aria-hidden="true">{{ t("edge.films") }}</span>
    <figcaption><b>{{ t("edge.under") }}</b> {{ words }}</figcaption>
  </figure>
</template>

<style scoped>
.edge { position: relative; margin: 0; border: 1px solid var(--line); background: var(--well); min-width: 0; min-height: 0; }
svg { overflow: hidden; }
.edge.x { border-left: 0; }
.edge.y { border-top: 0; }
.unit { position: absolute; right: 7px; top: 5px; font-size: 11.5px; color: var(--soft); background: var(--well); padding: 0 2px; }
figcaption { position: absolute; right: calc(100% + 6px); top: 60px; width: 220px; padding: 8px 11px; background: var(--paper); border: 1px solid var(--line); border-radius: 3px; font-size: 13px; opacity: 0; pointer-events: none; z-index: 3; }
.y figcaption { right: 12px; top: auto; bottom: calc(100% + 6px); }
figcaption b { display: block; }
.edge:hover figcaption, .edge:focus-visible figcaption { opacity: 1; }
text { font-size: 11.5px; fill: var(--soft); font-family: var(--text); }
</style>
