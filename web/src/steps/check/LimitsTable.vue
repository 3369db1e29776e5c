<script setup lang="ts">
/** What the machine and blade at hand can cut of each material. A new job begins with the table of the last. */
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { MaterialLimits } from "@/api/types";
import { useCheck } from "@/stores/check";
import { useJob } from "@/stores/job";
import AppButton from "@/ui/AppButton.vue";
import AppFold from "@/ui/AppFold.vue";
import AppNumber from "@/ui/AppNumber.vue";
import AppSelect from "@/ui/AppSelect.vue";

const FIELDS = [
  { name: "width_mm", max: 20, suffix: " mm" }, { name: "gap_mm", max: 20, suffix: " mm" },
  { name: "piece_mm2", max: 400, suffix: " mm²" }, { name: "radius_mm", max: 5, suffix: " mm" },
] as const;
const { t } = useI18n();
const check = useCheck();
const job = useJob();
const chosen = ref<MaterialLimits["kind"] | "">("");
const kind = computed({
  get: () => chosen.value || job.result?.layers.find((layer) => layer.kind)?.kind || job.make?.layers.material || "adhesive vinyl",
  set: (value) => (chosen.value = value),
});
const kinds = computed(() => (check.found?.limits ?? []).map(({ limits }) => ({ value: limits.kind, label: t(`stocks.kinds.${limits.kind}`) })));
const row = computed(() => check.found?.limits.find(({ limits }) => limits.kind === kind.value));
</script>

<template>
  <AppFold v-if="row" :title="t('check.limits')" name="check-limits">
    <AppSelect v-model="kind" :label="t('check.material')" :options="kinds" />
    <div class="fields">
      <AppNumber
        v-for="field in FIELDS" :key="field.name" :label="t(`check.limit.${field.name}`)" :value="row.limits[field.name]" :min="0" :max="field.max" :digits="2" :suffix="field.suffix"
        @settle="check.limit({ ...row.limits, [field.name]: $event })"
      />
    </div>
    <p class="soft">
      {{ t(row.own ? "check.own" : "check.fromMemory") }}
      <AppButton v-if="row.own" small look="quiet" @click="check.forget(row.limits.kind)">{{ t("check.asBefore") }}</AppButton>
    </p>
  </AppFold>
</template>

<style scoped>
.fields { display: grid; grid-template-columns: 1fr 1fr; gap: 8px; }
</style>
