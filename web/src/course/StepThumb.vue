<script setup lang="ts">
/** A small live picture of what a step has made of the job. */
import { onMounted, ref, watch } from "vue";

import type { StageImages } from "@/composables/useStageImages";
import { STATE_OF_STEP, type Step } from "@/core/course";
import { fit } from "@/core/viewport";
import { drawState, type LayerShape } from "@/stage/draw";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";

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
  const pixelRatio = window.devicePixelRatio || 1;
  canvas.value.width = canvas.value.height = SIDE * pixelRatio;
  const size = { width: SIDE, height: SIDE };
  const page = { x: 0, y: 0, width: result.width_mm, height: result.height_mm };
  const state = props.step === "picture" ? "picture" : STATE_OF_STEP[props.step];
  drawState(pen, {
    size, pixelRatio, view: fit(page, size, 3), axis: "x", seamPx: 0, first: state, second: state, result,
    shapes: props.shapes, images: props.images, base: job.course?.layers.base ?? "#ffffff", hand: null, marks: null, dimmed: null, loupe: null, clearedOn: "hatch",
  }, state);
}
onMounted(paint);
watch([() => job.result, () => props.images, () => props.shapes], paint, { flush: "post" });
</script>

<template>
  <canvas ref="canvas" class="thumb" aria-hidden="true" />
</template>

<style scoped>
.thumb { width: 46px; height: 46px; border: 1px solid var(--line); background: #f2ede1; }
</style>
