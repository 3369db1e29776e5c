<script setup lang="ts">
/** A solid shape under everything. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Backing } from "@/api/types";
import { useMakeControl } from "@/composables/useStepControl";
import { cutFrom } from "@/core/cutFrom";
import { useStocks } from "@/stores/stocks";
import AppChoice from "@/ui/AppChoice.vue";
import AppSelect from "@/ui/AppSelect.vue";
import AppSlider from "@/ui/AppSlider.vue";

const { t } = useI18n();
const stocks = useStocks();
const { settings, move, settle } = useMakeControl("layers");
const backing = computed(() => settings.value?.backing);
const pick = <T extends string>(values: readonly T[], stem: string): { value: T; label: string }[] => values.map((value) => ({ value, label: t(`layers.${stem}.${value}`) }));
const kinds = computed(() => pick(["none", "same", "margin"] as const, "backings"));
const corners = computed(() => pick(["round", "sharp"] as const, "backingCorners"));
const windows = computed(() => pick(["fill", "keep"] as const, "backingWindows"));
const stockOptions = computed(() => [{ value: "", label: t("layers.noStock") }, ...stocks.drawer.stocks.map(({ id, name }) => ({ value: id ?? "", label: name }))]);

function put(change: Partial<Backing>, act = settle): void {
  if (backing.value) act({ backing: { ...backing.value, ...change } });
}
function take(id: string): void {
  const stock = cutFrom(stocks.drawer.stocks.find((one) => one.id === id));
  put({ stock, ...(stock ? { colour: stock.colour } : {}) });
}
</script>

<template>
  <template v-if="backing">
    <AppChoice :model-value="backing.kind" :label="t('layers.backing')" :options="kinds" @update:model-value="put({ kind: $event })" />
    <template v-if="backing.kind !== 'none'">
      <AppSlider
        v-if="backing.kind === 'margin'" :label="t('layers.backingMargin')" :value="backing.margin_mm" :min="0.1" :max="30" :step="0.1" :digits="1" unit="mm" ratio
        :low="t('layers.narrow')" :high="t('layers.wide')" @move="put({ margin_mm: $event }, move)" @settle="put({ margin_mm: $event })"
      />
      <div class="pair">
        <AppSelect v-if="backing.kind === 'margin'" :model-value="backing.corners" :label="t('layers.corners')" :options="corners" @update:model-value="put({ corners: $event })" />
        <AppSelect :model-value="backing.windows" :label="t('layers.windows')" :options="windows" @update:model-value="put({ windows: $event })" />
      </div>
      <AppSelect :model-value="backing.stock?.id ?? ''" :label="t('layers.cutFrom')" :options="stockOptions" @update:model-value="take" />
    </template>
  </template>
</template>

<style scoped>
.pair { display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); gap: 10px; }
</style>
