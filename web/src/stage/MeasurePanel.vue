<script setup lang="ts">
/** What lies between two places, and the way to say how much it is in truth. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { usePageSize } from "@/composables/useSizeControl";
import { formatLength } from "@/core/units";
import { useMeasure } from "@/stores/measure";
import AppButton from "@/ui/AppButton.vue";
import SizeField from "@/ui/SizeField.vue";

const { t } = useI18n();
const measure = useMeasure();
const { width, unit, setWidth } = usePageSize();
const ready = computed(() => measure.ends.length === 2 && measure.length > 0);
const told = computed(() =>
  t("measure.told", { length: formatLength(measure.length, unit.value), unit: unit.value, degrees: measure.degrees.toFixed(1) }),
);
</script>

<template>
  <section class="panel" :aria-label="t('measure.panel')">
    <p aria-live="polite">{{ measure.ends.length ? (measure.shown.length === 2 ? told : t("measure.second")) : t("measure.first") }}</p>
    <SizeField v-if="ready" :label="t('measure.known', { unit })" :mm="measure.length" :unit="unit" :digits="2" @settle="setWidth((width * $event) / measure.length)" />
    <AppButton small look="quiet" @click="measure.toggle()">{{ t("measure.done") }}</AppButton>
  </section>
</template>

<style scoped>
.panel { position: absolute; left: 12px; bottom: 58px; width: 236px; display: grid; gap: 8px; padding: 10px 12px; background: var(--paper); border: 1px solid var(--line); border-radius: 3px; z-index: 1; font-size: 0.9rem; }
p { margin: 0; }
</style>
