<script setup lang="ts">
/** Parts of the picture with settings of their own: marking, choosing and dropping them. */
import { computed, onScopeDispose, watch, watchEffect } from "vue";
import { useI18n } from "vue-i18n";

import type { LinesPart, LinesSettings } from "@/api/types";
import type { Point } from "@/core/nodeGrid";
import { toPage } from "@/core/viewport";
import { MARK } from "@/stage/drawMarks";
import { useHand } from "@/stores/hand";
import { useStage } from "@/stores/stage";
import { useTools } from "@/stores/tools";
import AppButton from "@/ui/AppButton.vue";
import AppChoice from "@/ui/AppChoice.vue";

const props = defineProps<{ settings: LinesSettings }>();
const chosen = defineModel<number>({ required: true });
const emit = defineEmits<{ settle: [change: Partial<LinesSettings>] }>();
const { t } = useI18n();
const tools = useTools();
const stage = useStage();
const hand = useHand();
const TOOL = "part";

const marking = computed(() => tools.tool?.name === TOOL);
const options = computed(() => [
  { value: "-1", label: t("parts.whole") },
  ...props.settings.parts.map((_, i) => ({ value: String(i), label: t("parts.part", { number: i + 1 }) })),
]);
const taken = computed({ get: () => String(chosen.value), set: (value: string) => (chosen.value = Number(value)) });

// A part just marked is the one to work on.
watch(
  () => props.settings.parts.length,
  (now, before) => (chosen.value = now > before ? now - 1 : -1),
);
watchEffect(() => {
  tools.show(
    props.settings.parts.map(({ x, y, width, height }, i) => ({
      kind: "box", points: [{ x, y }, { x: x + width, y: y + height }], colour: MARK, strong: i === chosen.value, label: String(i + 1),
    })),
  );
});
onScopeDispose(() => {
  tools.show([]);
  tools.take(null);
});

function add([one, other]: Point[]): void {
  if (!one || !other) return;
  const { closeness_mm, corner_deg, smoothing_mm, simplify_mm } = props.settings;
  const part: LinesPart = {
    closeness_mm, corner_deg, smoothing_mm, simplify_mm,
    x: Math.max(-1, Math.min(one.x, other.x)), y: Math.min(one.y, other.y),
    width: Math.min(3, Math.abs(other.x - one.x)), height: Math.abs(other.y - one.y),
  };
  tools.take(null);
  emit("settle", { parts: [...props.settings.parts, part] });
}

function mark(): void {
  tools.toggle({ name: TOOL, kind: "box", done: ({ points }) => add(points) });
}

/** What is on the stage now becomes a part: the way without a pointer. */
function markShown(): void {
  const { width, height } = stage.size;
  add([{ x: 0, y: 0 }, { x: width, y: height }].map((at) => hand.share(toPage(stage.view, at))));
}

function drop(): void {
  const at = chosen.value;
  emit("settle", { parts: props.settings.parts.filter((_, i) => i !== at) });
}
</script>

<template>
  <section class="parts">
    <AppChoice v-if="settings.parts.length" v-model="taken" :label="t('parts.title')" :options="options" />
    <p v-if="marking" class="soft" aria-live="polite">{{ t("parts.how") }}</p>
    <div class="row">
      <AppButton small :pressed="marking" @click="mark">{{ t(marking ? "parts.cancel" : "parts.mark") }}</AppButton>
      <AppButton v-if="marking" small look="quiet" @click="markShown">{{ t("parts.markShown") }}</AppButton>
      <AppButton v-else-if="chosen >= 0" small look="quiet" @click="drop">{{ t("parts.drop", { number: chosen + 1 }) }}</AppButton>
    </div>
  </section>
</template>

<style scoped>
.parts { display: grid; gap: 8px; }
.parts p { margin: 0; }
.row { display: flex; flex-wrap: wrap; gap: 6px; }
</style>
