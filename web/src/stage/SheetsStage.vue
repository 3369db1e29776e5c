<script setup lang="ts">
/** All sheets beside each other, to scale. Parts are picked, dragged, turned and sent to other sheets here. */
import { computed, onScopeDispose, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { extent, onTable } from "@/core/sheets";
import { formatLength, formatSize } from "@/core/units";
import { useSheets } from "@/stores/sheets";
import { useStage } from "@/stores/stage";

import BoardFrame from "./BoardFrame.vue";
import { drawSheets, type PartShape } from "./drawSheets";
import { isDark } from "./surroundings";
import { useBoard } from "./useBoard";
import { useCanvasSize } from "./useCanvasSize";
import { useSheetsPointer, type SheetDrag } from "./useSheetsPointer";

const FOOT_PX = 34;
const { t } = useI18n();
const stage = useStage();
const sheets = useSheets();
const drag = ref<SheetDrag | null>(null);

const plan = computed(() => sheets.plan);
const host = ref<HTMLElement>();
const canvas = ref<HTMLCanvasElement>();
const size = useCanvasSize(host, canvas);
const places = computed(() => onTable(plan.value?.sheets ?? [], size.value.width / Math.max(1, size.value.height)));
const board = useBoard({ host, size, whole: () => extent(places.value), margin: 24, foot: FOOT_PX });
const { view } = board;
const parts = computed<PartShape[]>(() =>
  (plan.value?.parts ?? []).map(({ path, lines, layer }) => ({ path: new Path2D(path), lines: lines.map(({ role, path: own }) => ({ role, path: new Path2D(own) })), layer })),
);
const titles = computed(() =>
  (plan.value?.sheets ?? []).map((sheet, i) => ({
    title: `${i + 1} · ${sheet.tile >= 0 ? t("sheets.tile", { number: sheet.tile + 1 }) : ""}${sheet.stock}`,
    kind: ` · ${t(`stocks.kinds.${sheet.kind}`).toLowerCase()}`,
    note: sheet.mirrored ? t("sheets.mirrored") : "",
  })),
);
const foot = computed(() => {
  const [first] = plan.value?.sheets ?? [];
  if (!first) return "";
  const [, , width, height] = first.usable;
  const roll = sheets.settings?.carrier.kind === "roll";
  return roll ? t("sheets.footRoll", { carrier: first.carrier, width: formatLength(width, stage.unit), unit: stage.unit }) : t("sheets.foot", { carrier: first.carrier, size: formatSize(width, height, stage.unit) });
});

const held = computed(() => {
  const own = sheets.picked;
  if (!own) return null;
  const moving = drag.value?.picked ? drag.value : null;
  return { ...own, dx: moving ? moving.to.x - moving.from.x : 0, dy: moving ? moving.to.y - moving.from.y : 0 };
});

let asked = 0;
function paint(): void {
  cancelAnimationFrame(asked);
  asked = requestAnimationFrame(() => {
    const pen = canvas.value?.getContext("2d");
    if (!pen || !plan.value || !size.value.width) return;
    drawSheets(pen, {
      plan: plan.value, parts: parts.value, places: places.value, view: view.value, size: size.value, unit: stage.unit,
      pixelRatio: window.devicePixelRatio || 1, picked: held.value, titles: titles.value,
    });
  });
}
watch([plan, view, size, held, titles, isDark, () => stage.unit], paint, { flush: "post" });

const { onDown, onMove, onUp, onCancel, onKey } = useSheetsPointer({ canvas, board, drag, parts, places });

onScopeDispose(() => cancelAnimationFrame(asked));
</script>

<template>
  <section ref="host" class="sheets" :aria-label="t('sheets.label')" :aria-busy="sheets.working">
    <canvas
      ref="canvas" tabindex="0" role="img" :aria-label="t(sheets.canMove ? 'sheets.helpMove' : 'sheets.help')" :class="{ grip: sheets.canMove }"
      @pointerdown="onDown" @pointermove="onMove" @pointerup="onUp" @pointercancel="onCancel" @wheel.prevent="board.onWheel" @keydown="onKey"
    />
    <BoardFrame
      :working="sheets.working ? t('sheets.working') : ''" :stopped="sheets.stopped ? t('sheets.stopped') : ''" :again="t('sheets.again')" :error="sheets.error?.message ?? ''" :foot="foot"
      @again="sheets.load()" @zoom="board.zoom($event)" @all="board.showAll()"
    />
    <slot />
  </section>
</template>

<style scoped>
.sheets { position: relative; overflow: hidden; border: 1px solid var(--line); min-width: 0; min-height: 0; background: var(--board); }
canvas { position: absolute; inset: 0; width: 100%; height: 100%; touch-action: none; cursor: grab; }
canvas:focus-visible { outline-offset: -3px; }
</style>
