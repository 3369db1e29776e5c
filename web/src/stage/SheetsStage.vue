<script setup lang="ts">
/** All sheets beside each other, to scale. Parts are picked, dragged, turned and sent to other sheets here. */
import { computed, onMounted, onScopeDispose, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { extent, onTable } from "@/core/sheets";
import { formatLength, formatSize } from "@/core/units";
import { fit, type Viewport } from "@/core/viewport";
import { useJob } from "@/stores/job";
import { useSheets } from "@/stores/sheets";
import { useStage } from "@/stores/stage";
import AppButton from "@/ui/AppButton.vue";
import AppIcon from "@/ui/AppIcon.vue";

import { drawSheets, type PartShape } from "./drawSheets";
import { useSheetsPointer, type SheetDrag } from "./useSheetsPointer";

const FOOT_PX = 34;
const { t } = useI18n();
const stage = useStage();
const sheets = useSheets();
const job = useJob();
const host = ref<HTMLElement>();
const canvas = ref<HTMLCanvasElement>();
const size = ref({ width: 0, height: 0 });
const view = ref<Viewport>({ scale: 1, x: 0, y: 0 });
const touched = ref(false);
const drag = ref<SheetDrag | null>(null);

const plan = computed(() => sheets.plan);
const places = computed(() => onTable(plan.value?.sheets ?? [], size.value.width / Math.max(1, size.value.height)));
const table = computed(() => extent(places.value));
/** Above what lies at the foot of the stage. */
const fitted = computed(() => fit(table.value, { width: size.value.width, height: size.value.height - FOOT_PX }, 24));
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

const { onDown, onMove, onUp, onCancel, onWheel, onKey, zoom, showAll } = useSheetsPointer({ host, canvas, view, touched, drag, parts, places, fitted });

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
      @pointerdown="onDown" @pointermove="onMove" @pointerup="onUp" @pointercancel="onCancel" @wheel.prevent="onWheel" @keydown="onKey"
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
