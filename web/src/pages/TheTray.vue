<script setup lang="ts">
import { computed, ref, watch, type Component } from "vue";
import { useI18n } from "vue-i18n";

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
</script>

<template>
  <aside class="tray" :aria-label="t(`course.${stage.step}`)">
    <div ref="controls" class="controls">
      <h2>{{ t(`course.${stage.step}`) }}</h2>
      <p class="purpose">{{ t(`purpose.${stage.step}`) }}</p>
      <component :is="TRAYS[stage.step]" v-if="job.course" :key="key" />
    </div>
  </aside>
</template>

<style scoped>
.tray { display: flex; flex-direction: column; min-height: 0; padding: 12px 14px 8px 18px; }
.controls { flex: 1; min-height: 0; overflow-y: auto; display: flex; flex-direction: column; gap: 9px; padding: 2px 4px 14px 2px; }
.controls > :deep(*) { flex-shrink: 0; }
h2 { font-size: 21px; }
.purpose { margin-top: -7px; color: var(--soft); font-size: 13px; line-height: 1.3; }
</style>
