<script setup lang="ts">
/** Items that are cut more or less often than once for each make. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useMakeControl } from "@/composables/useStepControl";
import { useJob } from "@/stores/job";
import AppNumber from "@/ui/AppNumber.vue";

const { t } = useI18n();
const job = useJob();
const { settings, settle } = useMakeControl("sheets");
const rows = computed(() => job.items.map(({ id, name }) => ({ id, name, count: settings.value?.of_items.find(({ item }) => item === id)?.count ?? 1 })));

function put(item: string, count: number): void {
  const rest = (settings.value?.of_items ?? []).filter((one) => one.item !== item && job.items.some(({ id }) => id === one.item));
  settle({ of_items: count === 1 ? rest : [...rest, { item, count }] });
}
</script>

<template>
  <p class="soft">{{ t("sheets.ofItemsHint") }}</p>
  <div class="rows">
    <AppNumber v-for="row in rows" :key="row.id" :label="row.name" :value="row.count" :min="0" :max="500" @settle="put(row.id, $event)" />
  </div>
</template>

<style scoped>
p { margin: 0; }
.rows { display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); gap: 8px 10px; }
</style>
