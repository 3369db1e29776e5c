<script setup lang="ts">
/** Ready lines of a vector file: open ones, and what its numbers are. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useMadeControl } from "@/composables/useMadeControl";
import { useJob } from "@/stores/job";
import AppCheck from "@/ui/AppCheck.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSelect from "@/ui/AppSelect.vue";

const { t } = useI18n();
const job = useJob();
const { id, made, settle } = useMadeControl("lines");
const item = computed(() => job.result?.items.find(({ id: own }) => own === id.value));
const open = computed(() => item.value?.open_lines ?? 0);
const units = computed(() => (["mm", "cm", "in"] as const).map((value) => ({ value, label: t(`ready.units.${value}`) })));
</script>

<template>
  <template v-if="made">
    <p class="soft">{{ t("ready.from", { file: made.file_name ?? "" }) }}</p>
    <p v-if="open" class="soft">{{ t("ready.open", open) }}</p>
    <AppCheck v-if="open || made.close_open" :label="t('ready.close')" :value="made.close_open ?? false" @settle="settle({ close_open: $event })" />
    <template v-if="item && !item.sized">
      <AppNotice kind="note">{{ t("ready.unsized") }}</AppNotice>
      <AppSelect :model-value="made.unit ?? 'mm'" :label="t('ready.unit')" :options="units" @update:model-value="settle({ unit: $event })" />
    </template>
  </template>
</template>
