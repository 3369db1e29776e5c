<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { useStage } from "@/stores/stage";

const { t } = useI18n();
const stage = useStage();
const upright = computed(() => stage.axis === "x");
const style = computed(() => (upright.value ? { left: `${stage.seamPx}px` } : { top: `${stage.seamPx}px` }));
const seam = ref<HTMLElement>();

function follow(event: PointerEvent): void {
  const box = seam.value?.parentElement?.getBoundingClientRect();
  if (!box || !(event.buttons & 1)) return;
  stage.setSeam(upright.value ? (event.clientX - box.left) / box.width : (event.clientY - box.top) / box.height);
}
function grab(event: PointerEvent): void {
  (event.currentTarget as Element).setPointerCapture(event.pointerId);
}
function onKey(event: KeyboardEvent): void {
  const step = event.shiftKey ? 0.05 : 0.01;
  const moves: Record<string, number> = { ArrowLeft: -step, ArrowUp: -step, ArrowRight: step, ArrowDown: step };
  const move = moves[event.key];
  if (move === undefined) return;
  event.preventDefault();
  stage.setSeam(stage.seam + move);
}
</script>

<template>
  <div
    ref="seam"
    class="seam"
    :class="stage.axis"
    :style="style"
    role="slider"
    tabindex="0"
    :aria-label="t('stage.seam')"
    aria-valuemin="0"
    aria-valuemax="100"
    :aria-valuenow="Math.round(stage.seam * 100)"
    :aria-orientation="upright ? 'horizontal' : 'vertical'"
    @pointerdown="grab"
    @pointermove="follow"
    @keydown="onKey"
  >
    <svg class="grip" width="26" height="38" viewBox="0 0 26 38" aria-hidden="true">
      <path d="M13 0 1 13v24h24V13z" fill="var(--seam)" stroke="#fbf8f1" />
      <path d="M8 20v11M13 20v11M18 20v11" stroke="#fff" stroke-width="1.5" />
    </svg>
  </div>
</template>

<style scoped>
.seam { position: absolute; touch-action: none; z-index: 2; }
.seam::before { content: ""; position: absolute; background: var(--seam); box-shadow: 0 0 0 0.5px rgb(255 255 255 / 0.7); }
.seam.x { top: 0; bottom: 0; width: 26px; margin-left: -13px; cursor: ew-resize; pointer-events: none; }
.seam.x::before { left: 12px; width: 2px; top: 0; bottom: 0; }
.seam.y { left: 0; right: 0; height: 26px; margin-top: -13px; cursor: ns-resize; pointer-events: none; }
.seam.y::before { top: 12px; height: 2px; left: 0; right: 0; }
.grip { position: absolute; pointer-events: auto; }
.x .grip { bottom: 14px; left: 0; }
.y .grip { left: 14px; top: -6px; transform: rotate(90deg); }
.seam:focus-visible { outline: none; }
.seam:focus-visible .grip { outline: 2px solid var(--ink); outline-offset: 2px; }
</style>
