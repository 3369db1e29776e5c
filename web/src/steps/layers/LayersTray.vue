<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Layer, LayerChoice } from "@/api/types";
import { useStepControl } from "@/composables/useStepControl";
import { useJob } from "@/stores/job";
import AppChoice from "@/ui/AppChoice.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSlider from "@/ui/AppSlider.vue";

import BasePicker from "./BasePicker.vue";
import LayerRow from "./LayerRow.vue";
import StockMatches from "./StockMatches.vue";

const { t } = useI18n();
const job = useJob();
const { settings, move, settle } = useStepControl("layers");
const layers = computed(() => job.result?.layers ?? []);
const tooFine = computed(() => Number(job.result?.notes.find((note) => note.code === "too_fine")?.values.count ?? 0));
const builds = computed(() => (["whole", "lapped", "flush"] as const).map((value) => ({ value, label: t(`layers.${value}`) })));

function choices(layer: Layer, change: Partial<LayerChoice>): Record<string, LayerChoice> {
  const kept = settings.value?.choices ?? {};
  const before = kept[layer.key] ?? { name: null, colour: null };
  return { ...kept, [layer.key]: { ...before, ...change } };
}

function merge(from: Layer, into: Layer): void {
  const one = { kind: "merge", colour: from.key, into: into.key, x: null, y: null, ring: [] };
  void job.change("colours", { palette_changes: [...(job.course?.colours.palette_changes ?? []), one] });
}

function shift(from: number, by: number): void {
  const order = layers.value.map((layer) => layer.key);
  const [key] = order.splice(from, 1);
  if (key) order.splice(from + by, 0, key);
  settle({ order });
}
</script>

<template>
  <AppNotice v-if="tooFine" kind="note">{{ t("notes.too_fine", tooFine) }}</AppNotice>
  <p class="soft">{{ t("layers.intro") }}</p>
  <ol class="list">
    <LayerRow
      v-for="(layer, i) in layers"
      :key="layer.key"
      :layer="layer"
      :first="i === 0"
      :last="i === layers.length - 1"
      @rename="settle({ choices: choices(layer, { name: $event }) })"
      @try-colour="move({ choices: choices(layer, { colour: $event }) })"
      @colour="settle({ choices: choices(layer, { colour: $event }) })"
      @shift="shift(i, $event)"
    />
  </ol>
  <StockMatches
    :layers="layers"
    @use="(layer, stock) => settle({ choices: choices(layer, { colour: stock.colour, name: stock.name }) })"
    @merge="merge"
  />
  <template v-if="settings">
    <AppChoice :model-value="settings.build" :label="t('layers.build')" :options="builds" @update:model-value="settle({ build: $event })" />
    <p class="soft">{{ t(`layers.${settings.build}Hint`) }}</p>
    <AppSlider
      v-if="settings.build === 'lapped'"
      :label="t('layers.lap')"
      :value="settings.lap_mm"
      :min="0.05"
      :max="10"
      :step="0.05"
      :digits="2"
      unit="mm"
      ratio
      :low="t('layers.little')"
      :high="t('layers.far')"
      @move="move({ lap_mm: $event })"
      @settle="settle({ lap_mm: $event })"
    />
    <BasePicker :value="settings.base" @move="move({ base: $event })" @settle="settle({ base: $event })" />
  </template>
</template>

<style scoped>
.list { list-style: none; padding: 0; margin: 0; border: 1px solid var(--line); background: var(--card); max-height: 340px; overflow-y: auto; }
</style>
