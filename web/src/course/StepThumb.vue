<script setup lang="ts">
/** A small live picture of what a step has made of the job. */
import { computed, onMounted, ref, watch } from "vue";

import type { ItemResult } from "@/api/types";
import type { StageImages } from "@/composables/useStageImages";
import { MAKE_STEPS, STATE_OF_STEP, type Step } from "@/core/course";
import { boxOf, fit } from "@/core/viewport";
import { drawState, sceneItems, type Scene } from "@/stage/draw";
import type { LayerShape } from "@/stage/shapes";
import { isDark } from "@/stage/surroundings";
import { useCheck } from "@/stores/check";
import { useJob } from "@/stores/job";
import { useSheets } from "@/stores/sheets";
import { useStage } from "@/stores/stage";

import { drawApart, drawChecked, drawFile, drawLaid, drawPlaced, drawStacked, type MakeThumb } from "./drawThumb";
import { thumbScene } from "./thumbScene";

const props = defineProps<{ step: Step; images: StageImages; shapes: LayerShape[] }>();
const SIDE = 46;
const job = useJob();
const stage = useStage();
const check = useCheck();
const sheets = useSheets();
const canvas = ref<HTMLCanvasElement>();
const OF_STEP: Partial<Record<Step, (pen: CanvasRenderingContext2D, scene: Scene, make: MakeThumb) => void>> = {
  pieces: drawApart, arrange: drawPlaced, layers: drawStacked, sheets: drawLaid, check: drawChecked, export: drawFile,
};
/** Sheets nobody has laid out yet: a mat for each layer. */
const mats = computed(() => {
  const { width_mm: width = 1, height_mm: height = 1 } = job.make?.sheets.carrier ?? {};
  return (job.result?.layers ?? []).map(({ colour }) => ({ width, height: Math.min(height, 2 * width), colour }));
});
const make = computed<MakeThumb>(() => ({
  boxes: job.result?.items.map(({ box }) => box) ?? [],
  sheets: sheets.plan?.sheets.length ? sheets.plan.sheets.map(({ width, height, colour }) => ({ width, height: Math.min(height, 2 * width), colour })) : mats.value,
  findings: check.found && check.isFresh ? check.found.findings.filter(({ ignored, finding }) => !ignored && finding.severity !== "note").map(({ finding }) => finding) : null,
}));

function paint(): void {
  const pen = canvas.value?.getContext("2d");
  const result = job.result;
  if (!pen || !result || !canvas.value) return;
  // While a slider moves only the open step's picture follows; the others wait for the full result.
  if (result.preview && stage.step !== props.step) return;
  // Steps of an item show that item; those of the make show the whole page.
  const own = MAKE_STEPS.has(props.step) ? null : job.itemResult;
  const box = own ? boxOf(own.box) : { x: 0, y: 0, width: result.width_mm, height: result.height_mm };
  const items = sceneItems(own ? [own] : result.items, props.images, job.make?.arrange.gap_mm ?? 0);
  const scene = thumbScene(canvas.value, SIDE, fit(box, { width: SIDE, height: SIDE }, 3));
  const state = props.step === "picture" ? "picture" : STATE_OF_STEP[props.step];
  pen.save();
  if (own && result.items.length > 1) clipTo(pen, own, scene);
  const whole = { ...scene, items, shapes: props.shapes, base: job.make?.layers.base ?? "#ffffff" };
  const drawn = OF_STEP[props.step];
  if (drawn) drawn(pen, whole, make.value);
  else drawState(pen, whole, state);
  pen.restore();
}
/** Leave out what lies beside an item: its neighbours may reach into its picture's frame. */
function clipTo(pen: CanvasRenderingContext2D, { box: [left, top, right, bottom] }: ItemResult, { view, pixelRatio }: Scene): void {
  pen.setTransform(pixelRatio * view.scale, 0, 0, pixelRatio * view.scale, pixelRatio * view.x, pixelRatio * view.y);
  pen.beginPath();
  pen.rect(left, top, right - left, bottom - top);
  pen.clip();
}

onMounted(paint);
watch([() => job.result, () => job.item?.id, () => props.images, () => props.shapes, isDark, () => OF_STEP[props.step] && make.value], paint, { flush: "post" });
</script>

<template>
  <canvas ref="canvas" class="thumb" aria-hidden="true" />
</template>

<style scoped>
.thumb { width: 46px; height: 46px; border: 1px solid var(--line); background: var(--well); }
</style>
