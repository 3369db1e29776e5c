<script setup lang="ts">
/** A small live picture of what a step has made of the job. */
import { onMounted, ref, watch } from "vue";

import { NO_IMAGES, type StageImages } from "@/composables/useStageImages";
import { MAKE_STEPS, STATE_OF_STEP, type Step } from "@/core/course";
import { fit } from "@/core/viewport";
import { drawState } from "@/stage/draw";
import type { LayerShape } from "@/stage/shapes";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";

import { thumbScene } from "./thumbScene";

const props = defineProps<{ step: Step; images: StageImages; shapes: LayerShape[] }>();
const SIDE = 46;
const job = useJob();
const stage = useStage();
const canvas = ref<HTMLCanvasElement>();

function paint(): void {
  const pen = canvas.value?.getContext("2d");
  const result = job.result;
  if (!pen || !result || !canvas.value) return;
  // While a slider moves only the open step's picture follows; the others wait for the full result.
  if (result.preview && stage.step !== props.step) return;
  // Steps of an item show that item; those of the make show the whole page.
  const own = MAKE_STEPS.has(props.step) ? null : job.itemResult;
  const [x, y, width, height] = own?.frame ?? [0, 0, result.width_mm, result.height_mm];
  const items = (own ? [own] : result.items).map(({ id, frame }) => ({ frame, open: false, images: props.images[id] ?? NO_IMAGES }));
  const scene = thumbScene(canvas.value, SIDE, fit({ x, y, width, height }, { width: SIDE, height: SIDE }, 3));
  const state = props.step === "picture" ? "picture" : STATE_OF_STEP[props.step];
  drawState(pen, { ...scene, items, shapes: props.shapes, base: job.make?.layers.base ?? "#ffffff" }, state);
}
onMounted(paint);
watch([() => job.result, () => job.item?.id, () => props.images, () => props.shapes], paint, { flush: "post" });
</script>

<template>
  <canvas ref="canvas" class="thumb" aria-hidden="true" />
</template>

<style scoped>
.thumb { width: 46px; height: 46px; border: 1px solid var(--line); background: #f2ede1; }
</style>
