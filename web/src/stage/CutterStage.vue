<script setup lang="ts">
/** The stand-in cutter at work on a sheet's file. */
import { computed, onScopeDispose, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { useErrorWords } from "@/composables/useErrorWords";
import { useCutter } from "@/stores/cutter";

import BoardFrame from "./BoardFrame.vue";
import { DoneLines, drawCut } from "./drawCut";
import { isDark } from "./surroundings";
import { useBoard } from "./useBoard";
import { useCanvasSize } from "./useCanvasSize";

const KEY_MOVE = 40;
const { t } = useI18n();
const cutter = useCutter();
const words = useErrorWords();
const host = ref<HTMLElement>();
const canvas = ref<HTMLCanvasElement>();
const size = useCanvasSize(host, canvas);
const board = useBoard({ host, size, whole: () => ({ x: 0, y: 0, width: cutter.done?.width ?? 1, height: cutter.done?.height ?? 1 }), margin: 30 });
const { view, zoom, move, showAll } = board;
const lines = computed(() => cutter.done && new DoneLines(cutter.done));
const pieces = computed(() => {
  const whole = new Path2D();
  for (const { kind, path } of cutter.done?.areas ?? []) if (kind === "piece") whole.addPath(new Path2D(path));
  return whole;
});
let asked = 0;
let before = 0;
function paint(now: number): void {
  asked = 0;
  cutter.tick(before ? Math.min(0.1, (now - before) / 1000) : 0);
  before = cutter.playing || cutter.weeding ? now : 0;
  const pen = canvas.value?.getContext("2d");
  if (pen && cutter.done && lines.value && size.value.width) {
    drawCut(pen, { sheet: cutter.done, pieces: pieces.value, time: cutter.time, weeded: cutter.weeded, view: view.value, size: size.value, pixelRatio: window.devicePixelRatio || 1 }, lines.value);
  }
  if (before) ask();
}
function ask(): void {
  if (!asked) asked = requestAnimationFrame(paint);
}
watch([() => cutter.done, () => cutter.time, () => cutter.weeded, () => cutter.playing, () => cutter.weeding, view, size, isDark], ask, { flush: "post" });

function onDown(event: PointerEvent): void {
  if (event.button === 0) (event.target as Element).setPointerCapture(event.pointerId);
}
function onMove(event: PointerEvent): void {
  if ((event.target as Element).hasPointerCapture(event.pointerId)) move(event.movementX, event.movementY);
}
const keys: Record<string, () => void> = {
  " ": () => cutter.play(),
  ",": () => cutter.step(-1),
  ".": () => cutter.step(1),
  w: () => cutter.weed(),
  ArrowLeft: () => move(KEY_MOVE, 0),
  ArrowRight: () => move(-KEY_MOVE, 0),
  ArrowUp: () => move(0, KEY_MOVE),
  ArrowDown: () => move(0, -KEY_MOVE),
  "+": () => zoom(1.25),
  "-": () => zoom(0.8),
  Home: showAll,
};
function onKey(event: KeyboardEvent): void {
  const action = event.ctrlKey || event.metaKey || event.altKey ? undefined : keys[event.key];
  if (!action) return;
  event.preventDefault();
  action();
}

onScopeDispose(() => {
  cancelAnimationFrame(asked);
  cutter.playing = false;
});
</script>

<template>
  <section ref="host" class="cutter" :aria-label="t('cutter.label')" :aria-busy="cutter.working">
    <canvas
      ref="canvas" tabindex="0" role="img" :aria-label="t('cutter.help')"
      @pointerdown="onDown" @pointermove="onMove" @wheel.prevent="board.onWheel" @dblclick="showAll" @keydown="onKey"
    />
    <BoardFrame
      :working="cutter.working ? t('cutter.working') : ''" :stopped="cutter.done ? '' : t('cutter.stopped')" :again="t('cutter.again')" :error="cutter.error ? words(cutter.error) : ''"
      @again="cutter.load()" @zoom="zoom($event)" @all="showAll()"
    />
    <slot />
  </section>
</template>

<style scoped>
.cutter { position: relative; overflow: hidden; border: 1px solid var(--line); min-width: 0; min-height: 0; background: var(--board); }
canvas { position: absolute; inset: 0; width: 100%; height: 100%; touch-action: none; cursor: grab; }
canvas:focus-visible { outline-offset: -3px; }
</style>
