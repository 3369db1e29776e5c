<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useJob } from "@/stores/job";
import { useMeasure } from "@/stores/measure";
import { useStage } from "@/stores/stage";
import AppIcon from "@/ui/AppIcon.vue";
import type { IconName } from "@/ui/icons";

const { t } = useI18n();
const stage = useStage();
const job = useJob();
const measure = useMeasure();
const percent = computed(() => Math.round((100 * stage.view.scale) / stage.fitted));
const state = computed(() => {
  if (job.work === "idle" && !job.unsent && !job.result?.preview) return t("stage.finished");
  return job.result?.preview ? t("stage.preview") : "";
});
const tools: { icon: IconName; label: string; act: () => void }[] = [
  { icon: "farther", label: "stage.farther", act: () => stage.zoom(0.8) },
  { icon: "closer", label: "stage.closer", act: () => stage.zoom(1.25) },
  { icon: "fit", label: "stage.fit", act: () => stage.showAll() },
  { icon: "turn", label: "stage.turn", act: () => stage.turnSeam() },
];
</script>

<template>
  <div class="bar">
    <span v-if="state" class="state" :class="{ preview: job.result?.preview }" role="status">{{ state }}</span>
    <div class="tools">
      <button v-for="tool in tools" :key="tool.icon" type="button" :title="t(tool.label)" :aria-label="t(tool.label)" @click="tool.act">
        <AppIcon :name="tool.icon" />
      </button>
      <button type="button" :title="t('measure.title')" :aria-label="t('measure.title')" :aria-pressed="measure.active" @click="measure.toggle()">
        <AppIcon name="rule" />
      </button>
      <span class="number">{{ t("stage.zoom", { percent }) }}</span>
    </div>
  </div>
</template>

<style scoped>
.bar { position: absolute; left: 12px; right: 12px; bottom: 12px; display: flex; justify-content: space-between; align-items: end; pointer-events: none; z-index: 1; }
.bar > * { background: var(--paper); border: 1px solid var(--line); border-radius: 3px; pointer-events: auto; }
.state { padding: 4px 10px; font-size: 12.5px; color: var(--ok); }
.state::before { content: "✓ "; }
.state.preview { color: var(--soft); }
.state.preview::before { content: ""; }
.tools { display: flex; align-items: center; margin-left: auto; }
.tools button { border: 0; background: none; padding: 6px 8px; display: grid; cursor: pointer; color: var(--ink); }
.tools button[aria-pressed="true"] { background: var(--seam); color: var(--on-seam); }
.tools button:hover:not([aria-pressed="true"]) { background: var(--hover); }
.tools span { min-width: 52px; text-align: right; padding-right: 10px; font-size: 12.5px; color: var(--soft); }
</style>
