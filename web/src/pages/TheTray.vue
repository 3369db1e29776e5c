<script setup lang="ts">
import { computed, ref, watch, type Component } from "vue";
import { useI18n } from "vue-i18n";

import type { Bar } from "@/api/types";
import { MAKE_STEPS, type Step } from "@/core/course";
import ArrangeTray from "@/steps/arrange/ArrangeTray.vue";
import CheckTray from "@/steps/check/CheckTray.vue";
import BackgroundTray from "@/steps/background/BackgroundTray.vue";
import ColoursTray from "@/steps/colours/ColoursTray.vue";
import ExportTray from "@/steps/export/ExportTray.vue";
import LayersTray from "@/steps/layers/LayersTray.vue";
import LinesTray from "@/steps/lines/LinesTray.vue";
import PictureTray from "@/steps/picture/PictureTray.vue";
import SheetsTray from "@/steps/sheets/SheetsTray.vue";
import PiecesTray from "@/steps/pieces/PiecesTray.vue";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";

const props = defineProps<{ bars: Bar[] }>();
const { t } = useI18n();
const stage = useStage();
const job = useJob();
const TRAYS: Record<Step, Component> = {
  picture: PictureTray, background: BackgroundTray, colours: ColoursTray, lines: LinesTray, pieces: PiecesTray, arrange: ArrangeTray, layers: LayersTray, sheets: SheetsTray, check: CheckTray, export: ExportTray,
};

/** A tray of an item is a new one for each item, with no tool in hand. */
const key = computed(() => `${job.job?.id}/${MAKE_STEPS.has(stage.step) ? "" : job.item?.id}`);

// Each step is read from its beginning.
const controls = ref<HTMLElement>();
watch(() => stage.step, () => controls.value?.scrollTo({ top: 0 }), { flush: "post" });

const under = computed(() => {
  const layers = job.result?.layers ?? [];
  const names = [...new Set(props.bars.map((bar) => bar.layer))].map((i) => layers[i]?.name ?? "");
  if (!names.length) return t("edge.nothing");
  const most = Math.max(...props.bars.map((bar) => bar.below + 1));
  return `${t("edge.stack", { names: names.join(t("edge.then")) })} ${t("edge.most", most)}`;
});
</script>

<template>
  <aside class="tray" :aria-label="t(`course.${stage.step}`)">
    <div ref="controls" class="controls">
      <h2>{{ t(`course.${stage.step}`) }}</h2>
      <component :is="TRAYS[stage.step]" v-if="job.course" :key="key" />
    </div>
    <div v-if="stage.step !== 'sheets' && stage.step !== 'check'" class="under soft">
      <b>{{ t("edge.under") }}</b>
      <p>{{ under }}</p>
    </div>
  </aside>
</template>

<style scoped>
.tray { display: flex; flex-direction: column; min-height: 0; padding: 14px 16px 14px 18px; }
.controls { flex: 1; min-height: 0; overflow-y: auto; display: flex; flex-direction: column; gap: 16px; padding: 2px 4px 14px 2px; }
.controls > :deep(*) { flex-shrink: 0; }
h2 { font-size: 22px; }
.under { border-top: 1px dashed var(--stitch); padding-top: 10px; }
.under b { color: var(--ink); }
.under p::first-letter { text-transform: uppercase; }
</style>
