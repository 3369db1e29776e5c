<script setup lang="ts">
/** Which part of the picture, how turned: marks made later stay on their places. */
import { computed, onScopeDispose } from "vue";
import { useI18n } from "vue-i18n";

import type { PictureSettings } from "@/api/types";
import type { Point } from "@/core/nodeGrid";
import { straightened } from "@/core/placement";
import { toPage } from "@/core/viewport";
import { useHand } from "@/stores/hand";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import { useTools } from "@/stores/tools";
import AppButton from "@/ui/AppButton.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppSlider from "@/ui/AppSlider.vue";

const props = defineProps<{ settings: PictureSettings }>();
const emit = defineEmits<{ move: [change: Partial<PictureSettings>]; settle: [change: Partial<PictureSettings>] }>();
const { t } = useI18n();
const job = useJob();
const stage = useStage();
const hand = useHand();
const tools = useTools();
const TOOL = "crop";

const cropping = computed(() => tools.tool?.name === TOOL);
const times = ([1, 2, 4] as const).map((value) => ({ value: String(value), label: `${value}×` }));
const enlarge = computed({
  get: () => String(props.settings.enlarge),
  set: (value: string) => emit("settle", { enlarge: Number(value) as PictureSettings["enlarge"] }),
});

function cut(places: Point[]): void {
  const facts = job.facts?.picture;
  if (!facts) return;
  const aspect = facts.height_px / facts.width_px;
  const [one, other] = places.map((place) => straightened(place, props.settings.straighten_deg, aspect));
  if (!one || !other) return;
  const [left, right] = [Math.max(0, Math.min(one.x, other.x)), Math.min(1, Math.max(one.x, other.x))];
  const [top, bottom] = [Math.max(0, Math.min(one.y, other.y)), Math.min(aspect, Math.max(one.y, other.y))];
  tools.take(null);
  if (right - left < 0.004 || bottom - top < 0.004) return;
  emit("settle", { crop: { x: left, y: top, width: right - left, height: bottom - top } });
  stage.showAll();
}

function crop(): void {
  tools.toggle({ name: TOOL, kind: "box", done: ({ points }) => cut(points) });
}

function cropToShown(): void {
  const { width, height } = stage.size;
  cut([{ x: 0, y: 0 }, { x: width, y: height }].map((at) => hand.share(toPage(stage.view, at))));
}

function turn(by: 90 | 270): void {
  // A mirrored picture is turned before it is mirrored, so it must be turned the other way to look turned this way.
  const step = props.settings.flip ? 360 - by : by;
  emit("settle", { turn: ((props.settings.turn + step) % 360) as PictureSettings["turn"] });
}

onScopeDispose(() => tools.take(null));
</script>

<template>
  <section class="frame" :aria-label="t('frame.title')">
    <h3>{{ t("frame.title") }}</h3>
    <div class="row">
      <AppButton small :pressed="cropping" @click="crop">{{ t(cropping ? "frame.leave" : "frame.crop") }}</AppButton>
      <AppButton v-if="cropping" small look="quiet" @click="cropToShown">{{ t("frame.shown") }}</AppButton>
      <AppButton v-else-if="settings.crop" small look="quiet" @click="emit('settle', { crop: null })">{{ t("frame.all") }}</AppButton>
    </div>
    <p v-if="cropping" class="soft" aria-live="polite">{{ t("frame.how") }}</p>
    <div class="row">
      <AppButton small @click="turn(270)">{{ t("frame.left") }}</AppButton>
      <AppButton small @click="turn(90)">{{ t("frame.right") }}</AppButton>
      <AppButton small :pressed="settings.flip" @click="emit('settle', { flip: !settings.flip })">
        {{ t("frame.flip") }}
      </AppButton>
    </div>
    <AppSlider
      :label="t('frame.straighten')" :value="settings.straighten_deg" :min="-15" :max="15" :step="0.1" :digits="1" unit="°"
      :low="t('frame.against')" :high="t('frame.with')"
      @move="emit('move', { straighten_deg: $event })" @settle="emit('settle', { straighten_deg: $event })"
    />
    <AppChoice v-model="enlarge" :label="t('frame.enlarge')" :options="times" />
  </section>
</template>

<style scoped>
.frame { border: 1px solid var(--line); background: var(--card); padding: 8px 10px; display: grid; gap: 6px; }
.frame h3, .frame p { margin: 0; }
.row { display: flex; flex-wrap: wrap; gap: 6px; }
</style>
