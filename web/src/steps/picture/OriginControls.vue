<script setup lang="ts">
/** Where the picture is from, noted lightly: it stands on the build sheet, and nothing hangs on it. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useJob } from "@/stores/job";
import AppFold from "@/ui/AppFold.vue";
import AppSelect from "@/ui/AppSelect.vue";

const USES = ["unknown", "own", "bought", "free"] as const;
const { t } = useI18n();
const job = useJob();
const origin = computed(() => job.item?.origin ?? { source: "", maker: "", use: "unknown" as const });
const uses = computed(() => USES.map((value) => ({ value, label: t(`origin.uses.${value}`) })));
const use = computed({ get: () => origin.value.use ?? "unknown", set: (value) => note({ use: value }) });
const summary = computed(() => (origin.value.use && origin.value.use !== "unknown" ? t(`origin.uses.${origin.value.use}`) : ""));

function note(change: object): void {
  if (job.item) void job.changeItems({ [job.item.id]: { origin: { ...origin.value, ...change } } }, "origin");
}
</script>

<template>
  <AppFold :title="t('origin.title')" name="origin" :note="summary">
    <label>{{ t("origin.source") }}<input :value="origin.source" maxlength="200" :placeholder="t('origin.sourceHint')" @change="note({ source: ($event.target as HTMLInputElement).value.trim() })" /></label>
    <label>{{ t("origin.maker") }}<input :value="origin.maker" maxlength="80" @change="note({ maker: ($event.target as HTMLInputElement).value.trim() })" /></label>
    <AppSelect v-model="use" :label="t('origin.use')" :options="uses" />
    <p class="soft">{{ t("origin.hint") }}</p>
  </AppFold>
</template>

<style scoped>
label { display: grid; gap: 4px; font-weight: 700; }
input { border: 1px solid var(--frame); background: var(--paper); padding: 6px 9px; border-radius: 3px; font-weight: 400; }
</style>
