<script setup lang="ts">
import { computed, onScopeDispose, ref, toRef, watch } from "vue";
import { useI18n } from "vue-i18n";

import { useLit } from "@/composables/useLit";
import type { StageImages } from "@/composables/useStageImages";
import { formatLength } from "@/core/units";
import { boxOf } from "@/core/viewport";
import { useArrange } from "@/stores/arrange";
import { useCheck } from "@/stores/check";
import { useShapes } from "@/composables/useShapes";
import { useLayers } from "@/stores/layers";
import { useStage } from "@/stores/stage";
import { useHand } from "@/stores/hand";
import { useJob } from "@/stores/job";
import { usePieces } from "@/stores/pieces";
import { useMeasure } from "@/stores/measure";
import { useStrokes } from "@/stores/strokes";
import { useTools } from "@/stores/tools";

import { drawScene, sceneItems, type Scene, type SceneItem } from "./draw";
import MeasurePanel from "./MeasurePanel.vue";
import SeamHandle from "./SeamHandle.vue";
import type { LayerShape } from "./shapes";
import StageBar from "./StageBar.vue";
import StateMenu from "./StateMenu.vue";
import { isDark } from "./surroundings";
import { useCanvasSize } from "./useCanvasSize";
import { useStagePointer } from "./useStagePointer";

const REST_MS = 120; // without a movement, after which a large drawing is painted sharply

const props = defineProps<{ images: StageImages; shapes: LayerShape[] }>();
const { t } = useI18n();
const stage = useStage();
const job = useJob();
const hand = useHand();
const tools = useTools();
const arrange = useArrange();
const pieces = usePieces();
const strokes = useStrokes();
const measure = useMeasure();
const check = useCheck();
const layers = useLayers();
const ofCloth = useShapes(toRef(layers, "variant"));
/** The make for another cloth, laid where this one lies. */
const variant = computed(() => {
  const [own, other] = [job.result, layers.variant];
  if (!own || !other) return null;
  return { shapes: ofCloth.value, base: layers.chosen?.base ?? "#ffffff", shift: { x: other.origin[0] - own.origin[0], y: other.origin[1] - own.origin[1] } };
});
const cursorWords = computed(() =>
  stage.cursor ? t("stage.cursorAt", { x: formatLength(stage.cursor.x, stage.unit), y: formatLength(stage.cursor.y, stage.unit), unit: stage.unit }) : "",
);
const lengthLabel = computed(() => (measure.length ? `${formatLength(measure.length, stage.unit)} ${stage.unit}` : ""));
const host = ref<HTMLElement>();
const canvas = ref<HTMLCanvasElement>();
const base = computed(() => job.make?.layers.base ?? "#ffffff");

const { drag, onPointerDown, onPointerMove, onPointerUp, onPointerLeave, onDoubleClick, onWheel, onKey } = useStagePointer(
  host, canvas, () => items.value, () => [...props.shapes.map(({ nodes }) => nodes.places), ...strokes.ends],
);

const dimmed = useLit(() => props.images[job.item?.id ?? ""]?.colours ?? null, toRef(stage, "lit"));
const dragOnPage = computed(
  () => drag.value && { kind: drag.value.kind, from: hand.pageOf(drag.value.from), to: hand.pageOf(drag.value.to) },
);

/** The items with their rasters; of the open one the ground is shown as soon as it is known. */
const items = computed<SceneItem[]>(() =>
  sceneItems(job.result?.items ?? [], props.images, job.make?.arrange.gap_mm ?? 0).map((item, i) => {
    const open = job.result?.items[i]?.id === job.item?.id;
    return { ...item, open, takesAway: arrange.takesAway.has(item.id), images: open && tools.ground ? { ...item.images, background: tools.ground } : item.images };
  }),
);

const scene = computed<Scene | null>(() =>
  job.result && stage.size.width
    ? {
        size: stage.size,
        pixelRatio: window.devicePixelRatio || 1,
        view: stage.view,
        axis: stage.axis,
        seamPx: stage.seamPx,
        first: stage.first,
        second: stage.second,
        items: items.value,
        shapes: props.shapes,
        base: base.value,
        clearedOn: stage.clearedOn,
        hand: hand.active ? { hover: hand.hover, picked: drag.value ? [] : hand.picked, drag: dragOnPage.value } : null,
        dimmed: dimmed.value,
        loupe: tools.loupe && hand.pageOf(tools.loupe),
        arrange: stage.step === "arrange" ? arrange.scene : null,
        pieces: pieces.scene,
        strokes: strokes.scene,
        check: check.scene,
        shown: layers.shown,
        alone: layers.alone,
        lit: layers.lit,
        pageSize: [job.result.width_mm, job.result.height_mm],
        variant: variant.value,
        cursor: stage.cursor,
        measure: measure.active ? { ends: measure.shown, hover: measure.hover, label: lengthLabel.value } : null,
        marks: {
          marks: [...tools.marks, ...tools.glance], tool: tools.tool, path: tools.path, pageOf: hand.pageOf, pictureWidth: hand.pageWidth,
          veil: tools.veil,
        },
      }
    : null,
);

let asked = 0;
let resting = 0;
function paint(atRest: boolean): void {
  cancelAnimationFrame(asked);
  clearTimeout(resting);
  asked = requestAnimationFrame(() => {
    const pen = canvas.value?.getContext("2d");
    if (pen && scene.value && !drawScene(pen, scene.value, atRest)) resting = window.setTimeout(() => paint(true), REST_MS);
  });
}
watch([scene, isDark], () => paint(false), { flush: "post" });

watch(
  () => job.result,
  (result) => {
    if (!result) return;
    const page = { x: 0, y: 0, width: result.width_mm, height: result.height_mm };
    stage.setPage(page, job.itemResult ? boxOf(job.itemResult.box) : page);
  },
  { immediate: true },
);

watch(useCanvasSize(host, canvas), (size) => {
  stage.setSize(size);
  paint(false);
}, { flush: "sync" }); // a canvas is empty after its size was set
watch(() => stage.cursor !== null, (there) => there && canvas.value?.focus());
onScopeDispose(() => {
  cancelAnimationFrame(asked);
  clearTimeout(resting);
});
</script>

<template>
  <section ref="host" class="stage" :aria-label="t('stage.label')" :aria-busy="job.work === 'working'">
    <canvas
      ref="canvas"
      tabindex="0"
      role="img"
      :class="{ grip: hand.hover !== null || (pieces.active && pieces.hover >= 0) || (strokes.active && strokes.hover >= 0), tool: tools.tool !== null || measure.active }"
      :style="{ cursor: stage.step === 'arrange' ? arrange.cursor || undefined : undefined }"
      :aria-label="t(pieces.active ? 'stage.helpPieces' : check.active ? 'check.help' : strokes.active ? 'strokes.none' : stage.step === 'arrange' ? 'stage.helpArrange' : hand.active ? 'stage.helpHand' : 'stage.help')"
      @pointerdown="onPointerDown"
      @pointermove="onPointerMove"
      @pointerup="onPointerUp"
      @pointercancel="onPointerUp"
      @pointerleave="onPointerLeave"
      @wheel.prevent="onWheel"
      @keydown="onKey"
      @dblclick="onDoubleClick"
    />
    <template v-if="job.result">
      <StateMenu v-model="stage.first" class="first" :label="t(stage.axis === 'x' ? 'stage.left' : 'stage.above')" />
      <StateMenu v-model="stage.second" class="second" :class="stage.axis" :label="t(stage.axis === 'x' ? 'stage.right' : 'stage.below')" />
      <SeamHandle />
      <p v-if="stage.cursor" class="cursor">{{ t("stage.cursorHint") }}</p>
      <p class="visually-hidden" role="status">{{ cursorWords }}</p>
      <MeasurePanel v-if="measure.active" />
      <StageBar />
    </template>
    <slot />
  </section>
</template>

<style scoped>
.stage { position: relative; overflow: hidden; background: var(--card); border: 1px solid var(--line); min-width: 0; min-height: 0; }
canvas { position: absolute; inset: 0; width: 100%; height: 100%; touch-action: none; cursor: grab; }
canvas:active { cursor: grabbing; }
canvas.tool, canvas.tool:active { cursor: crosshair; }
canvas.grip { cursor: pointer; }
canvas:focus-visible { outline-offset: -3px; }
.cursor { position: absolute; left: 50%; top: 58px; transform: translateX(-50%); width: max-content; max-width: calc(100% - 24px); padding: 5px 12px; background: var(--paper); border: 1px solid var(--line); border-radius: 3px; font-size: 12.5px; pointer-events: none; }
.first, .second { position: absolute; width: 172px; }
.first { left: 12px; top: 12px; }
.second { right: 12px; top: 12px; }
.second.y { top: auto; bottom: 58px; }
</style>
