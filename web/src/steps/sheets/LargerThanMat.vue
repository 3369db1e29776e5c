<script setup lang="ts">
/** A make that is larger than what it is to lie on, and the ways out. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useMakeControl } from "@/composables/useStepControl";
import { formatSize } from "@/core/units";
import { useJob } from "@/stores/job";
import { useSheets } from "@/stores/sheets";
import { useStage } from "@/stores/stage";
import AppButton from "@/ui/AppButton.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppNumber from "@/ui/AppNumber.vue";

const { t } = useI18n();
const sheets = useSheets();
const job = useJob();
const stage = useStage();
const { settings, settle } = useMakeControl("sheets");

const finding = computed(() => sheets.plan?.findings.find(({ code }) => code === "larger_than_mat") ?? null);
const isLarger = computed(() => finding.value !== null);
const off = computed(() => settings.value?.layout === "in_place" && !isLarger.value && (sheets.plan?.sheets.some(({ clashes }) => clashes.length) ?? false));
const size = computed(() => [job.result?.width_mm ?? 0, job.result?.height_mm ?? 0] as const);
/** A little less than the largest that fits, so that rounding does no harm. */
const smaller = computed(() => Math.floor(10 * size.value[0] * Number(finding.value?.details.factor ?? 1)) / 10 - 0.1);
/** The smallest of the carriers that would take it. */
const other = computed(() => {
  const [wide, tall] = [Math.min(...size.value), Math.max(...size.value)];
  return [...sheets.carriers.shipped, ...sheets.carriers.own]
    .filter((one) => Math.min(one.usable_width_mm, one.usable_height_mm) >= wide && Math.max(one.usable_width_mm, one.usable_height_mm) >= tall)
    .sort((a, b) => a.usable_width_mm * a.usable_height_mm - b.usable_width_mm * b.usable_height_mm)[0];
});
const ways = computed(() => (["none", "straight", "calm"] as const).map((value) => ({ value, label: t(`sheets.splits.${value}`) })));
</script>

<template>
  <AppNotice v-if="off" kind="error">
    {{ t("sheets.offSheet") }}
    <template #actions><AppButton small @click="settle({ turned: !settings?.turned })">{{ t("sheets.layAcross") }}</AppButton></template>
  </AppNotice>
  <template v-if="isLarger && settings">
    <AppNotice :kind="settings.split === 'none' ? 'error' : 'note'">
      {{ t("sheets.larger", { size: formatSize(size[0], size[1], stage.unit), carrier: settings.carrier.name }) }}
      <template v-if="settings.split === 'none'" #actions>
        <AppButton v-if="smaller > 5" small @click="job.resize(smaller)">{{ t("sheets.smaller", { size: formatSize(smaller, (smaller / size[0]) * size[1], stage.unit) }) }}</AppButton>
        <AppButton v-if="other" small @click="settle({ carrier: other })">{{ t("sheets.otherMat", { name: other.name }) }}</AppButton>
      </template>
    </AppNotice>
    <AppChoice :model-value="settings.split" :label="t('sheets.split')" :options="ways" @update:model-value="settle({ split: $event })" />
    <AppNumber v-if="settings.split !== 'none'" :label="t('sheets.lap')" :value="settings.split_lap_mm" :min="0" :max="50" :digits="1" suffix=" mm" @settle="settle({ split_lap_mm: $event })" />
  </template>
</template>
