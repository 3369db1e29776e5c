<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import { RouterLink } from "vue-router";

import { useChangeWords } from "@/composables/useChangeWords";
import { formatSize } from "@/core/units";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import HelpButton from "@/help/HelpButton.vue";
import AppIcon from "@/ui/AppIcon.vue";
import AppText from "@/ui/AppText.vue";

import CheckState from "./CheckState.vue";
import HistoryDialog from "./HistoryDialog.vue";
import SizeDialog from "./SizeDialog.vue";
import WordMark from "./WordMark.vue";

const { t } = useI18n();
const job = useJob();
const stage = useStage();
const words = useChangeWords();
const sizing = ref(false);
const looking = ref(false);

const undoWords = computed(() =>
  job.job?.undo ? t("head.undo", { what: words(job.job.undo) }) : t("head.nothingToUndo"),
);
const redoWords = computed(() =>
  job.job?.redo ? t("head.redo", { what: words(job.job.redo) }) : t("head.nothingToRedo"),
);
const size = computed(() => (job.result ? formatSize(job.result.width_mm, job.result.height_mm, stage.unit) : ""));
const state = computed(() => t(`head.${job.waiting ? "waiting" : job.unsent ? "saving" : job.work === "working" ? "working" : "saved"}`));
const kind = computed(() => {
  const chosen = job.course?.colours.kind ?? "auto";
  return t(`kinds.${chosen === "auto" ? (job.facts?.colours.kind ?? "auto") : chosen}`);
});
</script>

<template>
  <header class="head">
    <RouterLink to="/" class="home" :aria-label="`${t('app.name')}: ${t('app.toShelf')}`" :title="t('app.toShelf')"><WordMark /></RouterLink>
    <div v-if="job.job" class="job">
      <AppText class="name" :label="t('head.name')" :value="job.job.document.name" @settle="job.rename" />
      <span class="sub">{{ job.items.length > 1 ? t("head.pictures", job.items.length) : kind }} · {{ state }}</span>
    </div>
    <div class="tools">
      <button type="button" :disabled="!job.job?.undo && !job.unsent" :title="undoWords" :aria-label="undoWords" @click="job.undo"><AppIcon name="undo" /></button>
      <button type="button" :disabled="!job.job?.redo" :title="redoWords" :aria-label="redoWords" @click="job.redo"><AppIcon name="redo" /></button>
      <button type="button" :title="t('head.history')" :aria-label="t('head.history')" @click="looking = true"><AppIcon name="history" /></button>
    </div>
    <HelpButton />
    <button v-if="size" type="button" class="size number" :aria-label="t('head.size', { size })" @click="sizing = true">{{ size }}</button>
    <CheckState v-if="job.result" />
    <button v-if="job.result" type="button" class="export" @click="stage.openStep('export')">{{ t("head.export") }}</button>
    <div v-if="job.work === 'working'" class="progress" role="progressbar" :aria-valuenow="Math.round(job.fraction * 100)" aria-valuemin="0" aria-valuemax="100">
      <span :style="{ width: `${Math.max(2, job.fraction * 100)}%` }" />
    </div>
    <SizeDialog v-if="sizing" v-model="sizing" />
    <HistoryDialog v-if="looking" v-model="looking" />
  </header>
</template>

<style scoped>
.head { position: relative; background: var(--head); color: var(--on-head); display: flex; align-items: center; gap: 18px; padding: 0 16px 0 18px; min-width: 0; }
.home { color: inherit; text-decoration: none; flex: none; }
.job { display: grid; min-width: 0; flex: 0 1 340px; }
.name { font-weight: 700; background: transparent; border-color: transparent; color: inherit; padding: 1px 6px; margin-left: -6px; width: 100%; text-overflow: ellipsis; box-shadow: none; }
.name:hover { border-color: #56626c; }
.name:focus { border-color: #a9b2b8; background: #1d262e; }
.sub { color: var(--soft-on-head); font-size: 12.5px; }
.tools { margin-left: auto; display: flex; }
.tools button { border: 0; background: none; color: inherit; padding: 7px; display: grid; border-radius: 3px; cursor: pointer; }
.tools button:hover:not(:disabled) { background: #3a4650; }
.tools button:disabled { color: #76818a; cursor: default; }
.size { border: 1px solid #66727a; background: none; color: inherit; border-radius: 3px; padding: 6px 12px; cursor: pointer; white-space: nowrap; }
.size:hover { border-color: #f4efe3; }
.export { font-weight: 700; border: 0; background: #f4efe3; color: #25303a; padding: 8px 18px; border-radius: 3px; cursor: pointer; }
.export:hover { background: #fff; }
.head :focus-visible { outline-color: #f0a9c8; }
.progress { position: absolute; left: 0; right: 0; bottom: -3px; height: 3px; background: var(--shade); z-index: 3; }
.progress span { display: block; height: 100%; background: var(--seam); transition: width 0.15s linear; }
</style>
