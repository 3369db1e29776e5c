<script setup lang="ts">
/** What went wrong or is under way, on the stage itself. */
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { isAway } from "@/api/client";
import { useErrorWords } from "@/composables/useErrorWords";
import { useJob } from "@/stores/job";
import AppButton from "@/ui/AppButton.vue";
import AppNotice from "@/ui/AppNotice.vue";

const { t } = useI18n();
const job = useJob();
const words = useErrorWords();
const LONG_MS = 500;
const long = ref(false);
let timer: ReturnType<typeof setTimeout> | undefined;
watch(
  () => job.work,
  (work) => {
    clearTimeout(timer);
    long.value = false;
    if (work === "working") timer = setTimeout(() => (long.value = true), LONG_MS);
  },
  { immediate: true },
);
// What nobody answered goes on by itself as soon as somebody does; the bar at the foot says so meanwhile.
watch(isAway, (away) => {
  if (away || job.error?.code !== "offline") return;
  job.error = null;
  if (job.work === "failed") void job.workOut();
});
const percent = computed(() => Math.round(job.fraction * 100));
</script>

<template>
  <div class="place" aria-live="polite">
    <AppNotice v-if="job.refusal" kind="error" :title="t('errors.refused')" :close-label="t('app.close')" @close="job.refusal = null">
      {{ words(job.refusal) }}
    </AppNotice>
    <AppNotice v-else-if="job.error && job.error.code !== 'offline'" kind="error" :title="t('errors.title')" :close-label="t('app.close')" @close="job.error = null">
      {{ words(job.error) }}
    </AppNotice>
    <AppNotice v-else-if="job.work === 'stopped'" kind="note">
      {{ t("head.stopped") }}
      <template #actions><AppButton @click="job.workOut">{{ t("head.again") }}</AppButton></template>
    </AppNotice>
    <div v-else-if="long" class="working">
      <span class="number">{{ job.doing ? t("head.doing", { what: t(`course.${job.doing}`) }) : t("head.working") }} {{ percent }} %</span>
      <AppButton @click="job.stop">{{ t("head.stop") }}</AppButton>
    </div>
  </div>
</template>

<style scoped>
.place { position: absolute; left: 50%; top: 60px; transform: translateX(-50%); z-index: 4; width: min(460px, calc(100% - 40px)); display: grid; justify-items: center; }
.working { display: flex; align-items: center; gap: 14px; background: var(--paper); border: 1px solid var(--line); border-radius: 3px; padding: 6px 8px 6px 14px; }
</style>
