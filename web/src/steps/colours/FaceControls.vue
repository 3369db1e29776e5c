<script setup lang="ts">
/** Faces that were found in a photograph, and eyes that a person has tapped; both are ringed on the stage. */
import { computed, onScopeDispose, ref, watchEffect } from "vue";
import { useI18n } from "vue-i18n";

import type { ColoursSettings, Face } from "@/api/types";
import type { Point } from "@/core/nodeGrid";
import { MARK } from "@/stage/drawMarks";
import { useHand } from "@/stores/hand";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import { useTools, type Mark } from "@/stores/tools";
import AppButton from "@/ui/AppButton.vue";
import AppSlider from "@/ui/AppSlider.vue";

const props = defineProps<{ faces: Face[]; settings: ColoursSettings }>();
const { t } = useI18n();
const job = useJob();
const tools = useTools();
const stage = useStage();
const hand = useHand();
const TOOL = "eyes";
const KEPT = "#2f6b4f";
const size = ref(44);
const looked = ref(-1);
const DOUBLE_MS = 500;
let tapped = 0;
const isTapping = computed(() => tools.tool?.name === TOOL);
const rounded = (value: number): number => Math.round(value * 1e5) / 1e5;
const width = computed(() => rounded(Math.min(2, Math.max(1e-4, size.value / (stage.view.scale * hand.pageWidth)))));
const eyes = computed(() =>
  props.settings.light_marks.flatMap((mark, i) => {
    const place = mark.points[0];
    return mark.kind === "eye" && place ? [{ i, x: place[0], y: place[1], width: mark.width ?? 0.1 }] : [];
  }),
);

function ring({ x, y }: Point, across: number, strong = false): Mark {
  const r = across / 2;
  return { kind: "ring", points: [{ x: x - r, y: y - r }, { x: x + r, y: y + r }], colour: MARK, strong };
}

watchEffect(() => {
  tools.show([
    ...props.faces.map(({ box, dismissed }, i): Mark => ({
      kind: "ring", points: box.map(([x, y]) => ({ x, y })), colour: dismissed ? MARK : KEPT, strong: i === looked.value,
      label: dismissed ? t("faces.none", { number: i + 1 }) : t("faces.one", { number: i + 1 }),
    })),
    ...eyes.value.map((eye) => ring(eye, eye.width)),
  ]);
});

/** A tap marks an eye; a tap on a marked one takes it back, but for the second press of a double click. */
function tap(at: Point): void {
  const isDouble = performance.now() - tapped < DOUBLE_MS;
  tapped = performance.now();
  const taken = eyes.value.filter(({ x, y, width: across }) => Math.hypot(x - at.x, y - at.y) < across / 2).map(({ i }) => i);
  if (taken.length && isDouble) return;
  if (taken.length) void job.edit("colours", { take_out: { light_marks: taken } });
  else void job.edit("colours", { add: { light_marks: [{ kind: "eye", points: [[rounded(at.x), rounded(at.y)]], width: width.value }] } });
}

function toggleTool(): void {
  tools.toggle({
    name: TOOL, kind: "click", colour: MARK,
    done: ({ points }) => points[0] && tap(points[0]),
    hover: (at) => { tools.glance = at ? [ring(at, width.value, true)] : []; },
  });
}

/** Goes by what is wanted, since the facts may still be those of the press before. */
function setFace({ box: [low, high], at }: Face, isFace: boolean): void {
  const said = props.settings.not_faces.flatMap(([x, y], i) => (x >= low[0] && x <= high[0] && y >= low[1] && y <= high[1] ? [i] : []));
  if (isFace && said.length) void job.edit("colours", { take_out: { not_faces: said } });
  else if (!isFace && !said.length) void job.edit("colours", { add: { not_faces: [[rounded(at[0]), rounded(at[1])]] } });
}

onScopeDispose(() => {
  if (isTapping.value) tools.take(null);
  tools.glance = [];
  tools.show([]);
});
</script>

<template>
  <section class="faces" :aria-label="t('faces.title')">
    <template v-if="faces.length">
      <p class="soft">{{ t("faces.found", faces.length) }}</p>
      <ul>
        <li v-for="(face, i) in faces" :key="i" @pointerenter="looked = i" @pointerleave="looked = -1">
          <label>
            <input type="checkbox" :checked="!face.dismissed" @change="setFace(face, ($event.target as HTMLInputElement).checked)" @focus="looked = i" @blur="looked = -1" />
            <span>{{ t("faces.one", { number: i + 1 }) }}</span>
          </label>
        </li>
      </ul>
    </template>
    <AppButton small :pressed="isTapping" @click="toggleTool">{{ t("faces.eyes") }}</AppButton>
    <p class="soft" aria-live="polite">{{ isTapping ? t("faces.tap") : t("faces.why") }}</p>
    <AppSlider
      v-if="isTapping" :label="t('faces.size')" :value="size" :min="10" :max="200" :step="1" unit="px" ratio
      :low="t('faces.small')" :high="t('faces.large')" @move="size = $event" @settle="size = $event"
    />
  </section>
</template>

<style scoped>
.faces { display: grid; gap: 6px; justify-items: start; }
.faces p { margin: 0; }
.faces > :deep(.slider) { width: 100%; }
ul { list-style: none; margin: 0; padding: 0; display: flex; flex-wrap: wrap; gap: 2px 10px; }
li label { display: flex; gap: 6px; align-items: center; padding: 3px 0; cursor: pointer; font-size: 0.86rem; }
input { accent-color: var(--seam); }
</style>
