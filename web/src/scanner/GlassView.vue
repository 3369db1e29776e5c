<script setup lang="ts">
/** The glass at a first look, with the area that is wanted; another one is drawn over it. */
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Glass } from "@/api/types";
import { between, type Area } from "@/core/scanning";

const SLIP_MM = 3; // a shorter stroke is a click, and draws nothing
const props = defineProps<{ glass: Glass; look: string; area: Area | null }>();
const emit = defineEmits<{ draw: [area: Area]; drawn: [area: Area] }>();
const { t } = useI18n();
const view = ref<SVGSVGElement>();
const from = ref<{ x: number; y: number } | null>(null);
const box = computed(() => `0 0 ${props.glass.width} ${props.glass.height}`);

function at({ clientX, clientY }: PointerEvent): { x: number; y: number } {
  const own = view.value?.getBoundingClientRect();
  if (!own) return { x: 0, y: 0 };
  return { x: ((clientX - own.left) / own.width) * props.glass.width, y: ((clientY - own.top) / own.height) * props.glass.height };
}
function down(event: PointerEvent): void {
  view.value?.setPointerCapture(event.pointerId);
  from.value = at(event);
}
const drawn = (event: PointerEvent): Area | null => {
  if (!from.value) return null;
  const to = at(event);
  return Math.hypot(to.x - from.value.x, to.y - from.value.y) < SLIP_MM ? null : between(from.value, to, props.glass);
};
function move(event: PointerEvent): void {
  const now = drawn(event);
  if (now) emit("draw", now);
}
function up(event: PointerEvent): void {
  const now = drawn(event);
  from.value = null;
  if (now) emit("drawn", now);
}
</script>

<template>
  <svg ref="view" :viewBox="box" role="img" :aria-label="t('scanner.glass')" @pointerdown="down" @pointermove="move" @pointerup="up" @pointercancel="from = null">
    <image :href="look" :width="glass.width" :height="glass.height" />
    <template v-if="area">
      <path class="beside" fill-rule="evenodd" :d="`M0 0h${glass.width}v${glass.height}h${-glass.width}z M${area.x} ${area.y}h${area.width}v${area.height}h${-area.width}z`" />
      <rect :x="area.x" :y="area.y" :width="area.width" :height="area.height" />
    </template>
  </svg>
</template>

<style scoped>
svg { height: min(520px, 62vh); aspect-ratio: 216 / 297; border: 1px solid var(--frame); cursor: crosshair; touch-action: none; }
.beside { fill: rgb(37 48 58 / 0.35); }
rect { fill: none; stroke: var(--seam); vector-effect: non-scaling-stroke; stroke-width: 2px; }
</style>
