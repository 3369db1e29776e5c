<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Layer, LayerRecord, LayersSettings } from "@/api/types";
import { useMakeControl } from "@/composables/useStepControl";
import { withMerged, withOrder, withRecord } from "@/core/layerRecords";
import { useJob } from "@/stores/job";
import AppButton from "@/ui/AppButton.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSlider from "@/ui/AppSlider.vue";

import BasePicker from "./BasePicker.vue";
import LayerRow from "./LayerRow.vue";
import StockMatches from "./StockMatches.vue";

const { t } = useI18n();
const job = useJob();
const { settings, move, settle } = useMakeControl("layers");
const layers = computed(() => job.result?.layers ?? []);
const tooFine = computed(() => Number(job.makeFindings.find((finding) => finding.code === "too_fine")?.details.count ?? 0));
/** Layers that something was said about, and whose colours are nowhere now. */
const unbound = computed(() => job.makeFindings.filter((finding) => finding.code === "layer_unbound"));
const builds = computed(() => (["whole", "lapped", "flush"] as const).map((value) => ({ value, label: t(`layers.${value}`) })));

/** Whether anything is folded, be it cut in dashes now. */
const folded = computed(() => settings.value?.folds === "perforate" || layers.value.some(({ strokes }) => strokes.some(({ role }) => role === "score")));
const foldWays = computed(() => (["score", "perforate"] as const).map((value) => ({ value, label: t(`strokes.foldWays.${value}`) })));

const kept = (): Pick<LayersSettings, "records"> => ({ records: settings.value?.records ?? [] });
const said = (layer: Layer, change: Partial<LayerRecord>): Pick<LayersSettings, "records"> => withRecord(layer, change, kept());

function forget(id: unknown): void {
  const { records, order } = settings.value ?? { records: [], order: [] };
  settle({ records: records.filter((record) => record.id !== id), order: order.filter((own) => own !== id) });
}
</script>

<template>
  <AppNotice v-if="tooFine" kind="note">{{ t("findings.too_fine", tooFine) }}</AppNotice>
  <AppNotice v-for="{ details } in unbound" :key="String(details.layer)" kind="note">
    {{ t("findings.layer_unbound", { name: String(details.name) }) }}
    <template #actions><AppButton small @click="forget(details.layer)">{{ t("layers.forget") }}</AppButton></template>
  </AppNotice>
  <p class="soft">{{ t("layers.intro") }}</p>
  <ol class="list">
    <LayerRow
      v-for="(layer, i) in layers"
      :key="layer.id || `${layer.holds[0]?.item}/${layer.key}`"
      :layer="layer"
      :first="i === 0"
      :last="i === layers.length - 1"
      @rename="settle(said(layer, { name: $event }))"
      @try-colour="move(said(layer, { colour: $event }))"
      @colour="settle(said(layer, { colour: $event }))"
      @shift="settle(withOrder(layers, i, $event, kept()))"
    />
  </ol>
  <StockMatches
    :layers="layers"
    @use="(layer, stock) => settle(said(layer, { colour: stock.colour, name: stock.name }))"
    @merge="(from, into) => settle(withMerged(from, into, kept()))"
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
    <template v-if="folded">
      <AppChoice :model-value="settings.folds" :label="t('strokes.folds')" :options="foldWays" @update:model-value="settle({ folds: $event })" />
      <template v-if="settings.folds === 'perforate'">
        <AppSlider
          :label="t('strokes.cutLength')" :value="settings.perforation_mm" :min="0.5" :max="20" :step="0.5" :digits="1" unit="mm"
          :low="t('strokes.short')" :high="t('strokes.long')" @move="move({ perforation_mm: $event })" @settle="settle({ perforation_mm: $event })"
        />
        <AppSlider
          :label="t('strokes.gapLength')" :value="settings.perforation_gap_mm" :min="0.5" :max="20" :step="0.5" :digits="1" unit="mm"
          :low="t('strokes.short')" :high="t('strokes.long')" @move="move({ perforation_gap_mm: $event })" @settle="settle({ perforation_gap_mm: $event })"
        />
      </template>
    </template>
    <BasePicker :value="settings.base" @move="move({ base: $event })" @settle="settle({ base: $event })" />
  </template>
</template>

<style scoped>
.list { list-style: none; padding: 0; margin: 0; border: 1px solid var(--line); background: var(--card); max-height: 340px; overflow-y: auto; }
</style>
