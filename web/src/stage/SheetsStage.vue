<script setup lang="ts">
/** All sheets beside each other, to scale. Parts are picked, dragged, turned and sent to other sheets here. */
import { computed, onMounted, onScopeDispose, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import type { Point } from "@/core/nodeGrid";
import { extent, flipped, onTable } from "@/core/sheets";
import { formatSize } from "@/core/units";
import { fit, pan, toPage, zoomAt, type Viewport } from "@/core/viewport";
import { useJob } from "@/stores/job";
import { useSheets } from "@/stores/sheets";
import { useStage } from "@/stores/stage";
import AppButton from "@/ui/AppButton.vue";
import AppIcon from "@/ui/AppIcon.vue";

import { drawSheets, type PartShape } from "./drawSheets";

const { t } = useI18n();
const stage = useStage();
const sheets = useSheets();
const job = useJob();
const host = ref<HTMLElement>();
const canvas = ref<HTMLCanvasElement>();
const size = ref({ width: 0, height: 0 });
const view = ref<Viewport>({ scale: 1, x: 0, y: 0 });
const touched = ref(false);
const drag = ref<{ from: Point; to: Point; picked: boolean } | null>(null);

const plan = computed(() => sheets.plan);
const places = computed(() => onTable(plan.value?.sheets ?? [], size.value.width / Math.max(1, size.value.height)));
const table = computed(() => extent(places.value));
const fitted = computed(() => fit(table.value, size.value, 24));
const parts = computed<PartShape[]>(() =>
  (plan.value?.parts ?? []).map(({ path, lines, layer }) => ({ path: new Path2D(path), lines: new Path2D(lines), layer })),
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
  return t("sheets.foot", { carrier: first.carrier, size: formatSize(width, height, stage.unit) });
});

watch([fitted, places], () => {
  if (!touched.value && size.value.width) view.value = fitted.value;
}, { immediate: true });

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
watch([plan, view, size, held, titles, () => stage.unit], paint, { flush: "post" });

// Pointer

function at(event: PointerEvent | WheelEvent): Point {
  const box = host.value?.getBoundingClientRect();
  return { x: event.clientX - (box?.left ?? 0), y: event.clientY - (box?.top ?? 0) };
}
const onTableAt = (point: Point): Point => toPage(view.value, point);

/** The sheet at a place on the table. */
function sheetAt(point: Point): number {
  return places.value.findIndex(({ x, y, width, height }) => point.x >= x && point.y >= y && point.x <= x + width && point.y <= y + height);
}

/** The part at a place on the table, the topmost first. */
function partAt(point: Point): { sheet: number; place: number } | null {
  const number = sheetAt(point);
  const [sheet, corner] = [plan.value?.sheets[number], places.value[number]];
  const pen = canvas.value?.getContext("2d");
  if (!sheet || !corner || !pen) return null;
  const on = flipped(sheet, { x: point.x - corner.x, y: point.y - corner.y });
  for (let k = sheet.places.length - 1; k >= 0; k--) {
    const [a, b, c, d, e, f] = sheet.places[k]?.matrix ?? [1, 0, 0, 0, 1, 0];
    const shape = parts.value[sheet.places[k]?.part ?? -1];
    const own = new DOMMatrix([a, d, b, e, c, f]).inverse().transformPoint(on);
    pen.setTransform(1, 0, 0, 1, 0, 0);
    if (shape && pen.isPointInPath(shape.path, own.x, own.y, "evenodd")) return { sheet: number, place: k };
  }
  return null;
}

function onDown(event: PointerEvent): void {
  if (event.button !== 0) return;
  (event.target as HTMLElement).setPointerCapture(event.pointerId);
  const place = onTableAt(at(event));
  const found = sheets.canMove ? partAt(place) : null;
  sheets.picked = found;
  drag.value = { from: found ? place : at(event), to: found ? place : at(event), picked: found !== null };
}

function onMove(event: PointerEvent): void {
  if (!drag.value) return;
  if (drag.value.picked) {
    drag.value = { ...drag.value, to: onTableAt(at(event)) };
    return;
  }
  const next = at(event);
  view.value = pan(view.value, next.x - drag.value.to.x, next.y - drag.value.to.y);
  touched.value = true;
  drag.value = { ...drag.value, to: next };
}

function onUp(): void {
  const done = drag.value;
  drag.value = null;
  const own = sheets.picked;
  if (!done?.picked || !own || !plan.value) return;
  const by = { x: done.to.x - done.from.x, y: done.to.y - done.from.y };
  if (Math.hypot(by.x, by.y) * view.value.scale < 3) return;
  const onto = sheetAt(done.to);
  const [from, to] = [plan.value.sheets[own.sheet], plan.value.sheets[onto]];
  const [one, other] = [places.value[own.sheet], places.value[onto]];
  if (!from || !one) return;
  if (!to || !other || to.stock_id !== from.stock_id || to.stock !== from.stock) return; // it springs back
  const shift = { x: by.x + one.x - other.x, y: by.y + one.y - other.y };
  sheets.put({ x: from.mirrored ? -shift.x : shift.x, y: shift.y }, 0, onto);
}

function onWheel(event: WheelEvent): void {
  view.value = zoomAt(view.value, event.deltaY < 0 ? 1.15 : 1 / 1.15, at(event), fitted.value.scale);
  touched.value = true;
}

function showAll(): void {
  touched.value = false;
  view.value = fitted.value;
}
function zoom(factor: number): void {
  view.value = zoomAt(view.value, factor, { x: size.value.width / 2, y: size.value.height / 2 }, fitted.value.scale);
  touched.value = true;
}

/** N and P pick one part after the other. */
function step(by: number): void {
  const all = (plan.value?.sheets ?? []).flatMap(({ places: own }, sheet) => own.map((_, place) => ({ sheet, place })));
  if (!all.length || !sheets.canMove) return;
  const now = all.findIndex((one) => one.sheet === sheets.picked?.sheet && one.place === sheets.picked?.place);
  sheets.picked = all[(now + by + all.length) % all.length] ?? null;
}

/** To the next sheet of the same material, to the same place there. */
function sendOn(): void {
  const all = plan.value?.sheets ?? [];
  const from = all[sheets.picked?.sheet ?? -1];
  const own = all.flatMap((sheet, i) => (from && sheet.stock_id === from.stock_id && sheet.stock === from.stock ? [i] : []));
  const next = own[(own.indexOf(sheets.picked?.sheet ?? -1) + 1) % Math.max(1, own.length)];
  if (next !== undefined && own.length > 1) sheets.put({ x: 0, y: 0 }, 0, next);
}

function onKey(event: KeyboardEvent): void {
  if (event.ctrlKey || event.metaKey) return;
  const far = event.shiftKey ? 10 : 1;
  const ways: Record<string, Point> = { ArrowLeft: { x: -far, y: 0 }, ArrowRight: { x: far, y: 0 }, ArrowUp: { x: 0, y: -far }, ArrowDown: { x: 0, y: far } };
  const way = ways[event.key];
  const key = event.key.toLowerCase();
  if (way && sheets.laid) {
    const mirrored = plan.value?.sheets[sheets.picked?.sheet ?? -1]?.mirrored;
    sheets.put({ x: mirrored ? -way.x : way.x, y: way.y });
  } else if (way) {
    view.value = pan(view.value, -30 * way.x, -30 * way.y);
    touched.value = true;
  } else if (key === "n" || key === "p") step(key === "n" ? 1 : -1);
  else if (key === "r" && sheets.laid) sheets.put({ x: 0, y: 0 }, event.shiftKey ? 15 : 90);
  else if (key === "s" && sheets.laid) sendOn();
  else if (event.key === "Backspace" && sheets.laid) sheets.putBack();
  else if (event.key === "Escape") sheets.picked = null;
  else if (event.key === "+" || event.key === "=") zoom(1.25);
  else if (event.key === "-") zoom(0.8);
  else if (event.key === "0") showAll();
  else return;
  event.preventDefault();
}

const watcher = new ResizeObserver(([entry]) => {
  if (!entry || !canvas.value) return;
  const { width, height } = entry.contentRect;
  const ratio = window.devicePixelRatio || 1;
  canvas.value.width = Math.round(width * ratio);
  canvas.value.height = Math.round(height * ratio);
  size.value = { width, height };
});
onMounted(() => host.value && watcher.observe(host.value));
onScopeDispose(() => {
  watcher.disconnect();
  cancelAnimationFrame(asked);
});
</script>

<template>
  <section ref="host" class="sheets" :aria-label="t('sheets.label')" :aria-busy="sheets.working">
    <canvas
      ref="canvas" tabindex="0" role="img" :aria-label="t(sheets.canMove ? 'sheets.helpMove' : 'sheets.help')" :class="{ grip: sheets.canMove }"
      @pointerdown="onDown" @pointermove="onMove" @pointerup="onUp" @pointercancel="drag = null" @wheel.prevent="onWheel" @keydown="onKey"
    />
    <div v-if="sheets.working" class="busy" role="status">
      <span>{{ t("sheets.working") }}</span>
      <span v-if="job.fraction" class="bar"><i :style="{ width: `${Math.round(100 * job.fraction)}%` }" /></span>
      <AppButton small @click="job.stop()">{{ t("head.stop") }}</AppButton>
    </div>
    <div v-else-if="sheets.error" class="busy" role="alert"><span>{{ sheets.error.message }}</span></div>
    <div class="foot">
      <span v-if="foot" class="number">{{ foot }}</span>
      <div class="tools">
        <button type="button" :title="t('stage.farther')" :aria-label="t('stage.farther')" @click="zoom(0.8)"><AppIcon name="farther" /></button>
        <button type="button" :title="t('stage.closer')" :aria-label="t('stage.closer')" @click="zoom(1.25)"><AppIcon name="closer" /></button>
        <button type="button" :title="t('stage.fit')" :aria-label="t('stage.fit')" @click="showAll"><AppIcon name="fit" /></button>
      </div>
    </div>
    <slot />
  </section>
</template>

<style scoped>
.sheets { position: relative; overflow: hidden; border: 1px solid var(--line); min-width: 0; min-height: 0; background: #d8d0c1; }
canvas { position: absolute; inset: 0; width: 100%; height: 100%; touch-action: none; cursor: grab; }
canvas:focus-visible { outline-offset: -3px; }
.busy { position: absolute; top: 12px; left: 50%; transform: translateX(-50%); background: #fffdf8; border: 1px solid var(--line); border-radius: 3px; padding: 8px 12px; display: flex; gap: 12px; align-items: center; max-width: 90%; }
.bar { width: 90px; height: 6px; background: #e6dfcf; border-radius: 3px; overflow: hidden; }
.bar i { display: block; height: 100%; background: var(--seam); }
.foot { position: absolute; left: 12px; right: 12px; bottom: 12px; display: flex; justify-content: space-between; align-items: end; pointer-events: none; }
.foot > * { background: #fffdf8; border: 1px solid var(--line); border-radius: 3px; pointer-events: auto; }
.foot > span { padding: 5px 10px; font-size: 12.5px; }
.tools { display: flex; margin-left: auto; }
.tools button { border: 0; background: none; padding: 6px 8px; display: grid; cursor: pointer; color: var(--ink); }
.tools button:hover { background: #efe9dc; }
</style>
