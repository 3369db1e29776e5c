<script setup lang="ts">
import { onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";

import { jobHistory } from "@/api/jobs";
import type { Change } from "@/api/types";
import { useChangeWords } from "@/composables/useChangeWords";
import { useJob } from "@/stores/job";
import AppDialog from "@/ui/AppDialog.vue";

const shown = defineModel<boolean>({ required: true });
const { t, d } = useI18n();
const job = useJob();
const words = useChangeWords();
const changes = ref<Change[]>([]);

onMounted(async () => {
  if (job.job) changes.value = (await jobHistory(job.job.id)).reverse();
});
const when = (change: Change): string => d(new Date(`${change.made_at}Z`), { dateStyle: "medium", timeStyle: "short" });
</script>

<template>
  <AppDialog v-model="shown" :title="t('head.historyTitle')">
    <ol>
      <li v-for="change in changes" :key="change.revision" :class="{ undone: !change.done, now: change.revision === job.job?.revision }">
        <span>{{ words(change) }}<em v-if="!change.done"> · {{ t("head.historyUndone") }}</em></span>
        <time class="soft">{{ when(change) }}</time>
      </li>
    </ol>
  </AppDialog>
</template>

<style scoped>
ol { list-style: none; padding: 0; margin: 0; max-height: 50vh; overflow-y: auto; }
li { display: flex; justify-content: space-between; gap: 12px; padding: 7px 0 7px 12px; border-left: 2px dashed var(--stitch); }
li.now { border-left: 2px solid var(--seam); font-weight: 700; }
li.undone { color: var(--soft); }
em { font-style: normal; font-weight: 400; }
time { font-weight: 400; white-space: nowrap; }
</style>
