<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { usePageSize } from "@/composables/useSizeControl";
import { useJob } from "@/stores/job";
import AppButton from "@/ui/AppButton.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppDialog from "@/ui/AppDialog.vue";
import SizeField from "@/ui/SizeField.vue";

const shown = defineModel<boolean>({ required: true });
const { t } = useI18n();
const job = useJob();
const { width, height, unit, measured, setWidth, setHeight, setMeasured, setNatural, isNatural } = usePageSize();
/** With several pictures the page is that of all of them, and each keeps its own settings. */
const alone = computed(() => job.items.length === 1);
const units = computed(() => [{ value: "mm" as const, label: "mm" }, { value: "in" as const, label: "in" }]);
const whats = computed(() => [
  { value: "artwork" as const, label: t("size.artwork") },
  { value: "picture" as const, label: t("size.picture") },
]);
</script>

<template>
  <AppDialog v-model="shown" :title="t('size.title')">
    <div class="fields">
      <SizeField :label="t('size.width')" :mm="width" :unit="unit" @settle="setWidth" />
      <span aria-hidden="true" class="times">×</span>
      <SizeField :label="t('size.height')" :mm="height" :unit="unit" @settle="setHeight" />
      <AppChoice v-model="unit" :label="t('size.unit')" :options="units" />
    </div>
    <template v-if="alone">
      <AppChoice :model-value="measured" :label="t('size.measured')" :options="whats" @update:model-value="setMeasured" />
      <p class="soft">{{ t("size.measuredHint") }}</p>
    </template>
    <p v-else class="soft">{{ t("size.together") }}</p>
    <template #actions>
      <AppButton v-if="alone && !isNatural" look="quiet" @click="setNatural">{{ t("size.natural") }}</AppButton>
      <AppButton look="main" @click="shown = false">{{ t("size.done") }}</AppButton>
    </template>
  </AppDialog>
</template>

<style scoped>
.fields { display: grid; grid-template-columns: 1fr auto 1fr auto; gap: 10px; align-items: end; margin-bottom: 16px; }
.times { padding-bottom: 8px; }
.soft { margin-top: 8px; }
</style>
