<script setup lang="ts">
/** What of this job was taken along, and whether it is still as it was. */
import { ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { getLeft } from "@/api/check";
import type { LeftFile } from "@/api/types";
import { useJob } from "@/stores/job";
import AppFold from "@/ui/AppFold.vue";

const props = defineProps<{ after: string }>();
const MOST = 12;
const { t, locale } = useI18n();
const job = useJob();
const files = ref<LeftFile[]>([]);
const when = (at: string): string => new Date(at).toLocaleString(locale.value, { dateStyle: "medium", timeStyle: "short" });
watch([() => job.kept?.id, () => job.kept?.moves, () => props.after], async () => {
  if (job.kept) files.value = await getLeft(job.kept.id).catch(() => files.value);
}, { immediate: true });
</script>

<template>
  <AppFold v-if="files.length" :title="t('export.left')" name="export-left" :note="String(files.length)">
    <ul>
      <li v-for="(file, i) in files.slice(0, MOST)" :key="i">
        <span>{{ file.name }}</span>
        <small class="soft">{{ when(file.at) }} · {{ t(file.unchanged ? "export.same" : "export.changedSince") }}</small>
      </li>
    </ul>
  </AppFold>
</template>

<style scoped>
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 6px; }
li { display: grid; overflow-wrap: anywhere; font-size: 13px; }
</style>
