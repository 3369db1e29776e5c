<script setup lang="ts">
/** All pieces by layer, the smallest first, each with a picture; what is gone stays in the list, with the reason and a way back. */
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { PieceRow } from "@/api/types";
import { usePieceNames } from "@/composables/usePieceNames";
import { isHere, isWindow } from "@/core/pieces";
import { usePieces } from "@/stores/pieces";
import AppButton from "@/ui/AppButton.vue";
import AppSelect from "@/ui/AppSelect.vue";
import AppSlider from "@/ui/AppSlider.vue";

import PieceThumb from "./PieceThumb.vue";

const SHOWN = 120; // rows at once; more on wish
const { t } = useI18n();
const pieces = usePieces();
const names = usePieceNames();
const layer = ref("all");
const upTo = ref(0);
const shown = ref(SHOWN);

const layers = computed(() => [
  { value: "all", label: t("pieces.allLayers") }, ...names.all.value, { value: "window", label: t("pieces.onlyWindows") },
]);
const inLayer = (row: PieceRow): boolean => layer.value === "all" || (layer.value === "window" ? isWindow(row) : row.colour === layer.value);
const sorted = computed(() =>
  pieces.rows
    .map((row, number) => ({ row, number }))
    .filter(({ row }) => inLayer(row))
    .sort((a, b) => a.row.area - b.row.area),
);
const most = computed(() => Math.max(10, ...sorted.value.map(({ row }) => row.area_mm2)));

/** Pick all pieces of the list up to a size. */
function pickUpTo(area: number): void {
  upTo.value = area;
  pieces.picked = sorted.value.filter(({ row }) => isHere(row) && !row.kept && row.area_mm2 <= area).map(({ number }) => number);
}
const nameOf = (row: PieceRow): string => (isWindow(row) ? t("pieces.window") : names.of(row.colour));
const sizeOf = (row: PieceRow): string => `${row.area_mm2.toFixed(row.area_mm2 < 10 ? 1 : 0)} mm²`;
const picked = (number: number): boolean => pieces.picked.includes(number);
const allGone = computed(() => sorted.value.filter(({ row }) => !isHere(row)).map(({ number }) => number));

function point(number: number, row: PieceRow): void {
  if (isHere(row)) pieces.hover = number;
  else pieces.looked = number;
}
function leave(): void {
  pieces.hover = pieces.looked = -1;
}
</script>

<template>
  <AppSelect v-model="layer" :label="t('pieces.ofLayer')" :options="layers" />
  <AppSlider
    :label="t('pieces.upTo')" :value="upTo" :min="0" :max="Math.ceil(most)" :step="0.5" :digits="1" unit="mm²" :low="t('pieces.noneOfThem')" :high="t('pieces.allOfThem')"
    @move="pickUpTo($event)" @settle="pickUpTo($event)"
  />
  <div class="row">
    <AppButton small look="main" :disabled="!pieces.picked.length" @click="pieces.drop('around')">{{ t("pieces.dropPicked", pieces.picked.length) }}</AppButton>
    <AppButton v-if="allGone.length" small @click="pieces.giveBack(allGone)">{{ t("pieces.allBack", allGone.length) }}</AppButton>
  </div>
  <ul :aria-label="t('pieces.ways.list')" @pointerleave="leave">
    <li
      v-for="{ row, number } in sorted.slice(0, shown)" :key="number" :class="{ gone: !isHere(row), on: picked(number) }"
      @pointerenter="point(number, row)" @focusin="point(number, row)"
    >
      <button type="button" class="look" :aria-pressed="picked(number)" :disabled="!isHere(row)" @click="pieces.pick(number, $event.shiftKey); pieces.showRow(number)">
        <PieceThumb :row="row" />
        <span>
          <b>{{ sizeOf(row) }}</b> {{ nameOf(row) }}
          <small v-if="!isHere(row)">{{ t(`pieces.reasons.${row.reason}`) }}</small>
          <small v-else-if="row.kept">{{ t("pieces.kept") }}</small>
        </span>
      </button>
      <AppButton v-if="isHere(row)" small look="quiet" @click="pieces.dropRow(number)">{{ t(isWindow(row) ? "pieces.closeShort" : "pieces.dropShort") }}</AppButton>
      <AppButton v-else small look="quiet" @click="pieces.giveBack([number])">{{ t("pieces.back") }}</AppButton>
    </li>
  </ul>
  <p v-if="!sorted.length" class="soft">{{ t("pieces.emptyList") }}</p>
  <AppButton v-if="sorted.length > shown" small @click="shown += SHOWN">{{ t("pieces.more", sorted.length - shown) }}</AppButton>
</template>

<style scoped>
ul { list-style: none; margin: 0; padding: 0; border: 1px solid var(--line); background: var(--card); }
li { display: flex; align-items: center; gap: 4px; border-bottom: 1px dashed var(--line); }
li:last-child { border-bottom: 0; }
li.on { background: var(--tint); }
.gone { color: var(--soft); }
.gone b { text-decoration: line-through; font-weight: 400; }
.look { flex: 1; min-width: 0; display: grid; grid-template-columns: 34px minmax(0, 1fr); gap: 8px; align-items: center; border: 0; background: none; padding: 4px 6px; text-align: left; cursor: pointer; color: inherit; font-size: 13px; }
.look:disabled { cursor: default; }
small { display: block; font-size: 12px; line-height: 1.2; }
.row { display: flex; flex-wrap: wrap; gap: 6px; }
</style>
