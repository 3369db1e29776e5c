<script setup lang="ts">
/** What the material lies on, how pieces are laid out on it, and what that takes. */
import { computed, onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";

import { sheetPath, sheetsPath } from "@/api/jobs";
import type { SheetsSettings } from "@/api/types";
import { useDownload } from "@/composables/useDownload";
import { useErrorWords } from "@/composables/useErrorWords";
import { FILE_KINDS, useFileKind } from "@/composables/useFileKind";
import { useMakeControl } from "@/composables/useStepControl";
import { useJob } from "@/stores/job";
import { useLayers } from "@/stores/layers";
import { useSheets } from "@/stores/sheets";
import AppButton from "@/ui/AppButton.vue";
import AppCheck from "@/ui/AppCheck.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppFold from "@/ui/AppFold.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppNumber from "@/ui/AppNumber.vue";
import AppSelect from "@/ui/AppSelect.vue";
import AppSlider from "@/ui/AppSlider.vue";

import CarriersDialog from "./CarriersDialog.vue";
import ItemCopies from "./ItemCopies.vue";
import LargerThanMat from "./LargerThanMat.vue";
import SheetList from "./SheetList.vue";
import WhatItTakes from "./WhatItTakes.vue";

const OWN = "+";
const { t } = useI18n();
const sheets = useSheets();
const layers = useLayers();
const job = useJob();
const words = useErrorWords();
const { settings, settle } = useMakeControl("sheets");
const { busy, handedOver, download } = useDownload();
const table = ref(false);
const kind = useFileKind();
const kinds = computed(() => FILE_KINDS.map((value) => ({ value, label: t(`export.kinds.${value}`) })));

const all = computed(() => [...sheets.carriers.shipped, ...sheets.carriers.own]);
const same = (one: SheetsSettings["carrier"], other: SheetsSettings["carrier"]): boolean => JSON.stringify(one) === JSON.stringify(other);
const carrierNumber = computed({
  get: () => String(all.value.findIndex((one) => settings.value && same(one, settings.value.carrier))),
  set: (value) => {
    const carrier = all.value[Number(value)];
    if (value === OWN) table.value = true;
    else if (carrier) settle({ carrier });
  },
});
const carrierOptions = computed(() => {
  const found = all.value.map((one, i) => ({ value: String(i), label: one.name }));
  // One that was chosen and is in the table no more is still the job's.
  const lost = carrierNumber.value === "-1" && settings.value ? [{ value: "-1", label: settings.value.carrier.name }] : [];
  return [...lost, ...found, { value: OWN, label: t("sheets.ownCarrier") }];
});
const choice = <T extends string>(values: readonly T[], stem: string): { value: T; label: string }[] => values.map((value) => ({ value, label: t(`${stem}.${value}`) }));
const layouts = computed(() => choice(["in_place", "ganged"] as const, "sheets.layouts"));
const turns = computed(() => choice(["none", "quarter", "any"] as const, "sheets.turns"));
const togethers = computed(() => choice(["pieces", "near", "layer"] as const, "sheets.togethers"));
const mirrors = computed(() => choice(["by_material", "all", "none"] as const, "sheets.mirrors"));
const marks = computed(() => choice(["none", "brackets", "cross", "triangles"] as const, "sheets.marksOf"));
const seconds = computed(() => [3, 10, 30, 60].map((value) => ({ value: String(value), label: t("sheets.seconds", { count: value }) })));
const cloths = computed(() => [
  { value: "", label: job.make?.layers.cloth || t("layers.ownCloth") }, ...layers.variants.map(({ id, cloth }) => ({ value: id, label: cloth })),
]);
const summary = computed(() => (sheets.plan ? t(`sheets.intro.${settings.value?.layout ?? "in_place"}`, { count: sheets.plan.sheets.length }) : ""));
const marksNote = computed(() => (settings.value ? [t(`sheets.marksOf.${settings.value.marks}`), settings.value.frame ? t("sheets.framed") : ""].filter(Boolean).join(", ") : ""));
const clashes = computed(() => sheets.plan?.sheets.flatMap((sheet, i) => (sheet.clashes.length ? [i + 1] : [])) ?? []);
/** The width at which the make fills the usable area, mm. */
const fittingWidth = computed(() => {
  const [now, sheet] = [settings.value, sheets.plan?.sheets[0]];
  const [width, height] = [job.result?.width_mm ?? 0, job.result?.height_mm ?? 0];
  if (!now || !sheet || !width || now.split !== "none" || now.carrier.kind === "roll") return 0;
  const reach = Math.max(now.marks === "none" ? 0 : now.mark_off_mm + now.mark_mm, now.frame ? now.frame_mm : 0);
  const [across, down] = now.turned ? [height, width] : [width, height];
  const factor = Math.min((sheet.usable[2] - 2 * reach) / across, (sheet.usable[3] - 2 * reach) / down);
  return Math.floor(10 * width * factor) / 10 - 0.1;
});
const jobId = computed(() => job.job?.id ?? 0);

onMounted(() => void sheets.openCarriers());
</script>

<template>
  <p class="soft">{{ summary }}</p>
  <AppNotice v-if="sheets.error" kind="error">{{ words(sheets.error) }}</AppNotice>
  <AppSelect v-if="layers.variants.length" v-model="sheets.cloth" :label="t('sheets.cloth')" :options="cloths" />
  <template v-if="settings">
    <AppSelect v-model="carrierNumber" :label="t('sheets.carrier')" :options="carrierOptions" />
    <LargerThanMat />
    <AppNotice v-for="finding in (sheets.plan?.findings ?? []).filter(({ code }) => code === 'piece_too_large')" :key="String(finding.details.layer)" kind="error">
      {{ t("findings.piece_too_large", { layer: String(finding.details.layer), carrier: String(finding.details.carrier) }) }}
    </AppNotice>
    <AppNotice v-if="clashes.length && settings.layout === 'ganged'" kind="error">{{ t("sheets.clash", { sheets: clashes.join(", ") }) }}</AppNotice>
    <AppChoice :model-value="settings.layout" :label="t('sheets.layout')" :options="layouts" @update:model-value="settle({ layout: $event })" />
    <div class="row">
      <AppNumber :label="t('sheets.copies')" :value="settings.copies" :min="1" :max="500" :disabled="settings.fill" @settle="settle({ copies: $event })" />
      <AppCheck :label="t('sheets.fill')" :value="settings.fill" @settle="settle({ fill: $event })" />
    </div>
    <AppSlider
      :label="t('sheets.spacing')" :value="settings.spacing_mm" :min="0" :max="20" :step="0.5" :digits="1" unit="mm" :low="t('sheets.tight')" :high="t('sheets.roomy')"
      @settle="settle({ spacing_mm: $event })"
    />
    <template v-if="settings.layout === 'ganged'">
      <div class="pair">
        <AppSelect :model-value="settings.together" :label="t('sheets.together')" :options="togethers" @update:model-value="settle({ together: $event })" />
        <AppSelect :model-value="settings.turns" :label="t('sheets.turning')" :options="turns" @update:model-value="settle({ turns: $event })" />
      </div>
      <AppSelect :model-value="String(settings.seconds)" :label="t('sheets.time')" :options="seconds" @update:model-value="settle({ seconds: Number($event) })" />
      <AppCheck :label="t('sheets.inWindows')" :value="settings.in_windows" @settle="settle({ in_windows: $event })" />
      <AppFold v-if="job.items.length > 1" :title="t('sheets.ofItems')" name="item-copies" :note="settings.of_items.length ? String(settings.of_items.length) : ''"><ItemCopies /></AppFold>
      <div class="hand">
        <span class="soft">{{ t(sheets.laid ? "sheets.picked" : "sheets.nonePicked") }}</span>
        <template v-if="sheets.laid">
          <AppButton small @click="sheets.put({ x: 0, y: 0 }, 90)">{{ t("sheets.turnQuarter") }}</AppButton>
          <AppButton small @click="sheets.put({ x: 0, y: 0 }, 15)">{{ t("sheets.turnLittle") }}</AppButton>
          <AppButton v-if="sheets.laid.by_hand" small @click="sheets.putBack()">{{ t("sheets.putBack") }}</AppButton>
        </template>
        <AppButton v-if="settings.by_hand.length" small look="quiet" @click="settle({ by_hand: [] })">{{ t("sheets.allBack", settings.by_hand.length) }}</AppButton>
      </div>
    </template>
    <div v-else class="pair">
      <AppCheck :label="t('sheets.across')" :value="settings.turned" @settle="settle({ turned: $event })" />
      <AppCheck :label="t('sheets.centred')" :value="settings.centred" @settle="settle({ centred: $event })" />
    </div>
    <div v-if="settings.layout === 'in_place' && fittingWidth > 5 && Math.abs(fittingWidth - (job.result?.width_mm ?? 0)) > 0.5">
      <AppButton small @click="job.resize(fittingWidth)">{{ t("sheets.fit") }}</AppButton>
    </div>
    <AppSelect :model-value="settings.mirror" :label="t('sheets.mirror')" :options="mirrors" @update:model-value="settle({ mirror: $event })" />
    <AppFold :title="t('sheets.marks')" name="marks" :note="marksNote">
      <AppSelect :model-value="settings.marks" :label="t('sheets.marks')" :options="marks" hide-label @update:model-value="settle({ marks: $event })" />
      <div v-if="settings.marks !== 'none'" class="pair">
        <AppNumber :label="t('sheets.markSize')" :value="settings.mark_mm" :min="2" :max="30" :digits="1" suffix=" mm" @settle="settle({ mark_mm: $event })" />
        <AppNumber :label="t('sheets.markOff')" :value="settings.mark_off_mm" :min="0" :max="50" :digits="1" suffix=" mm" @settle="settle({ mark_off_mm: $event })" />
      </div>
      <AppCheck :label="t('sheets.frame')" :value="settings.frame" @settle="settle({ frame: $event })" />
      <AppNumber v-if="settings.frame" :label="t('sheets.frameOff')" :value="settings.frame_mm" :min="0.5" :max="50" :digits="1" suffix=" mm" @settle="settle({ frame_mm: $event })" />
      <AppCheck :label="t('sheets.weed')" :value="settings.weed_every_mm > 0" @settle="settle({ weed_every_mm: $event ? 50 : 0 })" />
      <AppNumber v-if="settings.weed_every_mm > 0" :label="t('sheets.weedEvery')" :value="settings.weed_every_mm" :min="5" :max="300" suffix=" mm" @settle="settle({ weed_every_mm: $event })" />
      <AppNumber :label="t('sheets.margin')" :value="settings.margin_mm" :min="0" :max="200" :digits="1" suffix=" mm" @settle="settle({ margin_mm: $event })" />
    </AppFold>
    <AppFold v-if="sheets.plan?.used.length" :title="t('sheets.takes')" name="takes"><WhatItTakes /></AppFold>
    <AppFold v-if="sheets.plan?.sheets.length" :title="t('sheets.each')" name="each-sheet" :note="String(sheets.plan.sheets.length)">
      <SheetList @save="download(sheetPath(jobId, kind, $event, sheets.cloth))" />
    </AppFold>
    <AppSelect v-model="kind" :label="t('export.kind')" :options="kinds" />
    <AppButton look="main" :disabled="busy || sheets.working || !sheets.plan?.sheets.length || clashes.length > 0" @click="download(sheetsPath(jobId, kind, sheets.cloth))">
      {{ t(busy ? "export.checking" : "sheets.download") }}
    </AppButton>
    <p v-if="clashes.length" class="soft">{{ t("sheets.cannot", { sheets: clashes.join(", ") }) }}</p>
    <AppNotice v-if="handedOver" kind="note">{{ t("export.done", { file: handedOver }) }}</AppNotice>
  </template>
  <CarriersDialog v-if="table" v-model="table" />
</template>

<style scoped>
.row { display: flex; gap: 14px; align-items: end; }
.pair { display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); gap: 10px; align-items: end; }
.hand { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; }
.hand span { flex-basis: 100%; }
</style>
