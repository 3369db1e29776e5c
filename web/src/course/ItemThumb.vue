<script setup lang="ts">
/** What an item has become, small. */
import { onMounted, ref, watch } from "vue";

import type { StageImages } from "@/composables/useStageImages";
import { boxOf, fit } from "@/core/viewport";
import { drawState, sceneItems } from "@/stage/draw";
import { isDark } from "@/stage/surroundings";
import { useJob } from "@/stores/job";

import { thumbScene } from "./thumbScene";

const props = defineProps<{ itemId: string; images: StageImages }>();
const SIDE = 29;
const job = useJob();
const canvas = ref<HTMLCanvasElement>();

function paint(): void {
  const pen = canvas.value?.getContext("2d");
  const item = job.result?.items.find((one) => one.id === props.itemId);
  if (!pen || !canvas.value || !item || job.result?.preview) return;
  const scene = thumbScene(canvas.value, SIDE, fit(boxOf(item.box), { width: SIDE, height: SIDE }, 1));
  drawState(pen, { ...scene, items: sceneItems([item], props.images, 0) }, "colours");
}
onMounted(paint);
watch([() => job.result, () => props.images[props.itemId], isDark], paint, { flush: "post" });
</script>

<template>
  <canvas ref="canvas" class="thumb" aria-hidden="true" />
</template>

<style scoped>
.thumb { width: 29px; height: 29px; }
</style>
