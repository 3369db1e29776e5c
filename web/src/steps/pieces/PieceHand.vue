<script setup lang="ts">
/** What can be done with the pieces that are picked, and with a drawn line. */
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { useLift } from "@/composables/useLift";
import { usePieceNames } from "@/composables/usePieceNames";
import { drawnChange, isWindow, size } from "@/core/pieces";
import { usePieces } from "@/stores/pieces";
import { useStage } from "@/stores/stage";
import { useTools } from "@/stores/tools";
import AppButton from "@/ui/AppButton.vue";
import AppSelect from "@/ui/AppSelect.vue";
import SizeField from "@/ui/SizeField.vue";

const { t } = useI18n();
const pieces = usePieces();
const stage = useStage();
const tools = useTools();
const names = usePieceNames();
const lift = useLift();
const amount = ref(0.5);
const width = ref(1.5);
const nothing = ref(false);

const only = computed(() => (pieces.pickedRows.length === 1 ? pieces.pickedRows[0] : undefined));
const told = computed(() => only.value ?? (pieces.picked.length ? undefined : pieces.rows[pieces.hover]));
const scale = computed(() => pieces.list?.scale ?? 1);
const written = computed(() => pieces.pickedRows.some(({ word }) => word >= 0));
const windows = computed(() => pieces.pickedRows.length > 0 && pieces.pickedRows.every(isWindow));
const fact = computed(() => {
  const row = told.value;
  if (!row) return "";
  const { width: w, height: h } = size(row, scale.value);
  return t("pieces.fact", {
    what: isWindow(row) ? t("pieces.window") : names.of(row.colour), width: w.toFixed(1), height: h.toFixed(1),
    area: row.area_mm2.toFixed(row.area_mm2 < 10 ? 1 : 0), least: row.least_mm.toFixed(1),
  });
});
const layers = computed(() => names.all.value.filter(({ value }) => pieces.pickedRows.some((row) => row.colour !== value)));
const colour = computed(() => names.all.value.some(({ value }) => value === chosen.value) ? chosen.value : names.all.value[0]?.value ?? "");
const chosen = ref("");

function ring(): void {
  tools.toggle({
    name: "ring", kind: "stroke", width: 2,
    done: ({ points, shift }) => {
      nothing.value = pieces.pickWithin(points, shift) === 0;
      tools.take(null);
    },
  });
}
function draw(kind: "bar" | "cut" | "bridge"): void {
  tools.toggle({
    name: kind, kind: "stroke", width: Math.max(2, width.value * stage.view.scale),
    done: ({ points }) => {
      if (points.length > 1) void pieces.add([drawnChange(kind, points, width.value, kind === "cut" ? (only.value?.colour ?? null) : colour.value)]);
    },
  });
}
</script>

<template>
  <section class="picked" :aria-label="t('pieces.picked')">
    <p aria-live="polite" :class="{ soft: !told }">
      <template v-if="pieces.picked.length > 1">{{ t("pieces.several", pieces.picked.length) }}</template>
      <template v-else-if="told">{{ fact }}</template>
      <template v-else>{{ t("pieces.none") }}</template>
    </p>
    <p v-if="nothing" class="soft" role="status">{{ t("pieces.ringEmpty") }}</p>
    <div class="row">
      <AppButton small :pressed="tools.tool?.name === 'ring'" :disabled="!pieces.list" @click="ring">{{ t("pieces.ring") }}</AppButton>
      <AppButton small :disabled="!pieces.picked.length" @click="pieces.pickAlike()">{{ t("pieces.alike") }}</AppButton>
      <template v-if="written">
        <AppButton small @click="pieces.pickWhole('word')">{{ t("pieces.word") }}</AppButton>
        <AppButton small @click="pieces.pickWhole('line')">{{ t("pieces.line") }}</AppButton>
      </template>
    </div>
    <template v-if="pieces.picked.length">
      <div class="row">
        <AppButton v-if="windows" small look="main" @click="pieces.drop('around')">{{ t("pieces.close") }}</AppButton>
        <template v-else>
          <AppButton small look="main" @click="pieces.drop('around')">{{ t("pieces.drop") }}</AppButton>
          <AppButton small @click="pieces.drop('open')">{{ t("pieces.dropOpen") }}</AppButton>
        </template>
      </div>
      <template v-if="!windows">
        <AppSelect
          v-if="layers.length" :model-value="'none'" :label="t('pieces.give')" :options="[{ value: 'none', label: t('pieces.choose') }, ...layers]"
          @update:model-value="$event !== 'none' && pieces.toPicked('give', { into: $event })"
        />
        <div class="row">
          <AppButton small @click="pieces.toPicked('own')">{{ t("pieces.own") }}</AppButton>
          <AppButton v-if="only" small @click="pieces.toPicked('largest')">{{ t("pieces.largest") }}</AppButton>
          <AppButton small @click="lift">{{ t("pieces.lift") }}</AppButton>
        </div>
      </template>
      <SizeField :label="t('pieces.amount', { unit: stage.unit })" :mm="amount" :unit="stage.unit" @settle="amount = Math.min(20, Math.max(0.05, $event))" />
      <div class="row">
        <AppButton small @click="pieces.toPicked('grow', { amount_mm: amount })">{{ t("pieces.bigger") }}</AppButton>
        <AppButton small @click="pieces.toPicked('grow', { amount_mm: -amount })">{{ t("pieces.smaller") }}</AppButton>
        <AppButton small @click="pieces.toPicked('smooth', { amount_mm: amount })">{{ t("pieces.smooth") }}</AppButton>
      </div>
    </template>
  </section>
  <section class="picked" :aria-label="t('pieces.draw')">
    <h3>{{ t("pieces.draw") }}</h3>
    <div class="row">
      <AppButton small :pressed="tools.tool?.name === 'bar'" @click="draw('bar')">{{ t("pieces.bar") }}</AppButton>
      <AppButton small :pressed="tools.tool?.name === 'bridge'" @click="draw('bridge')">{{ t("pieces.bridge") }}</AppButton>
      <AppButton small :pressed="tools.tool?.name === 'cut'" @click="draw('cut')">{{ t("pieces.cut") }}</AppButton>
    </div>
    <template v-if="tools.tool && tools.tool.name !== 'ring'">
      <p class="soft">{{ t(`pieces.how.${tools.tool.name}`) }}</p>
      <AppSelect v-if="tools.tool.name !== 'cut'" :model-value="colour" :label="t('pieces.ofLayer')" :options="names.all.value" @update:model-value="chosen = $event" />
    </template>
    <SizeField :label="t('pieces.width', { unit: stage.unit })" :mm="width" :unit="stage.unit" @settle="width = Math.min(20, Math.max(0.1, $event))" />
  </section>
  <div v-if="pieces.changes.length" class="row">
    <span class="soft">{{ t("pieces.made", pieces.changes.length) }}</span>
    <AppButton small look="quiet" @click="pieces.takeBackLast()">{{ t("pieces.last") }}</AppButton>
  </div>
</template>

<style scoped>
.picked { border: 1px solid var(--line); background: var(--card); padding: 8px 10px; display: grid; gap: 8px; }
.picked p, .picked h3 { margin: 0; }
.row { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; }
</style>
