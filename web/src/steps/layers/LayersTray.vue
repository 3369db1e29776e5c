<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Layer, LayerRecord, LayersSettings, Stock } from "@/api/types";
import { useMakeControl } from "@/composables/useStepControl";
import { BUILDS } from "@/core/builds";
import { cutFrom, isPressed } from "@/core/cutFrom";
import { withMerged, withRecord } from "@/core/layerRecords";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import { STOCK_KINDS } from "@/stores/stocks";
import AppButton from "@/ui/AppButton.vue";
import AppCheck from "@/ui/AppCheck.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppFold from "@/ui/AppFold.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppNumber from "@/ui/AppNumber.vue";
import AppSelect from "@/ui/AppSelect.vue";
import AppSlider from "@/ui/AppSlider.vue";

import BackingControls from "./BackingControls.vue";
import BasePicker from "./BasePicker.vue";
import ClothControls from "./ClothControls.vue";
import LayerList from "./LayerList.vue";
import PutOn from "./PutOn.vue";
import StockMatches from "./StockMatches.vue";

const { t } = useI18n();
const job = useJob();
const stage = useStage();
const { settings, move, settle } = useMakeControl("layers");
const layers = computed(() => job.result?.layers ?? []);
const tooFine = computed(() => Number(job.makeFindings.find((finding) => finding.code === "too_fine")?.details.count ?? 0));
const noLaps = computed(() => job.makeFindings.find((finding) => finding.code === "laps_left_out"));
/** Layers that something was said about, and whose colours are nowhere now. */
const unbound = computed(() => job.makeFindings.filter((finding) => finding.code === "layer_unbound"));
const builds = computed(() => (["auto", ...BUILDS] as const).map((value) => ({ value, label: t(`layers.${value}`) })));
const materials = computed(() => STOCK_KINDS.map((value) => ({ value, label: t(`stocks.kinds.${value}`) })));
const LAPS: readonly string[] = ["whole", "lapped"];
const laps = computed(() => LAPS.includes(job.result?.build ?? "") || settings.value?.meetings.some(({ build }) => LAPS.includes(build)));
const hint = computed(() => {
  const build = job.result?.build ?? "whole";
  return settings.value?.build === "auto" ? t("layers.autoHint", { build: t(`layers.${build}`), hint: t(`layers.${build}Hint`) }) : t(`layers.${settings.value?.build}Hint`);
});
/** Whether any film is pressed on. */
const pressed = computed(() => layers.value.some(({ kind }) => isPressed(kind ?? settings.value?.material)));
const thick = computed(() => job.result?.thickest ?? null);

/** Whether anything is folded, be it cut in dashes now. */
const folded = computed(() => settings.value?.folds === "perforate" || layers.value.some(({ strokes }) => strokes.some(({ role }) => role === "score")));
const foldWays = computed(() => (["score", "perforate"] as const).map((value) => ({ value, label: t(`strokes.foldWays.${value}`) })));

const kept = (): Pick<LayersSettings, "records"> => ({ records: settings.value?.records ?? [] });
const said = (layer: Layer, change: Partial<LayerRecord>): Pick<LayersSettings, "records"> => withRecord(layer, change, kept());

function use(layer: Layer, stock: Stock): void {
  settle(said(layer, { colour: stock.colour, name: stock.name, stock: cutFrom(stock) }));
}

function forget(id: unknown): void {
  const { records, order } = settings.value ?? { records: [], order: [] };
  settle({ records: records.filter((record) => record.id !== id), order: order.filter((own) => own !== id) });
}

function showThickest(): void {
  const at = thick.value?.at;
  if (at) stage.lookAt({ x: at[0], y: at[1] });
  if (at) stage.setSeam(stage.axis === "x" ? (at[0] * stage.view.scale + stage.view.x) / stage.size.width : (at[1] * stage.view.scale + stage.view.y) / stage.size.height);
}
</script>

<template>
  <AppNotice v-if="tooFine" kind="note">{{ t("findings.too_fine", tooFine) }}</AppNotice>
  <AppNotice v-if="noLaps" kind="note">{{ t("findings.laps_left_out", { count: Number(noLaps.details.count) }) }}</AppNotice>
  <AppNotice v-for="{ details } in unbound" :key="String(details.layer)" kind="note">
    {{ t("findings.layer_unbound", { name: String(details.name) }) }}
    <template #actions><AppButton small @click="forget(details.layer)">{{ t("layers.forget") }}</AppButton></template>
  </AppNotice>
  <LayerList :layers="layers" />
  <AppFold v-if="layers.length > 1" :title="t('layers.putOn')" name="put-on"><PutOn :layers="layers" /></AppFold>
  <template v-if="settings">
    <AppSelect :model-value="settings.build" :label="t('layers.build')" :options="builds" @update:model-value="settle({ build: $event as LayersSettings['build'] })" />
    <p class="soft hint">{{ hint }}</p>
    <AppSlider
      v-if="laps"
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
    <p v-if="thick" class="thick">
      <span :class="{ warn: thick.many }">{{ t("layers.thickest", thick.films) }}</span>
      <AppButton v-if="thick.films > 1" small look="quiet" @click="showThickest">{{ t("layers.showThickest") }}</AppButton>
    </p>
    <AppSelect :model-value="settings.material" :label="t('layers.material')" :options="materials" @update:model-value="settle({ material: $event })" />
    <template v-if="pressed">
      <AppCheck :label="t('layers.knockOut')" :value="settings.knock_out" @settle="settle({ knock_out: $event })" />
      <AppNumber v-if="settings.knock_out" :label="t('layers.knockGap')" :value="settings.knock_mm" :min="0" :max="5" :digits="2" suffix=" mm" @settle="settle({ knock_mm: $event })" />
    </template>
    <AppFold :title="t('layers.backing')" name="backing" :note="t(`layers.backings.${settings.backing.kind}`)"><BackingControls /></AppFold>
    <AppFold :title="t('layers.cloths')" name="cloths" :note="settings.variants.map(({ cloth }) => cloth).join(', ')"><ClothControls :layers="layers" /></AppFold>
    <AppFold :title="t('stocks.title')" name="stocks">
      <StockMatches :layers="layers" @use="use" @merge="(from, into) => settle(withMerged([from, into], kept()))" />
    </AppFold>
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
    <AppFold :title="t('layers.base')" name="base"><BasePicker :value="settings.base" @move="move({ base: $event })" @settle="settle({ base: $event })" /></AppFold>
  </template>
</template>

<style scoped>
.hint { margin-top: -6px; }
.thick :deep(button) { white-space: nowrap; }
.thick { display: flex; justify-content: space-between; align-items: center; margin: 0; gap: 8px; }
.warn { color: var(--warn); font-weight: 700; }
</style>
