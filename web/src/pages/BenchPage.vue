<script setup lang="ts">
import { computed, onMounted, onUnmounted, toRef, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import { useBenchKeys } from "@/composables/useBenchKeys";
import { ApiError } from "@/api/client";
import { useBringAnother } from "@/composables/useBringAnother";
import { useEdge } from "@/composables/useEdge";
import { useJobProgress } from "@/composables/useJobProgress";
import { usePictureDrop } from "@/composables/usePictureDrop";
import { useShapes } from "@/composables/useShapes";
import { useStageImages } from "@/composables/useStageImages";
import TheCourse from "@/course/TheCourse.vue";
import TheHead from "@/head/TheHead.vue";
import CutterStage from "@/stage/CutterStage.vue";
import EdgeView from "@/stage/EdgeView.vue";
import SheetsStage from "@/stage/SheetsStage.vue";
import StageMessage from "@/stage/StageMessage.vue";
import TheStage from "@/stage/TheStage.vue";
import { useCutter } from "@/stores/cutter";
import { useHand } from "@/stores/hand";
import { useJob } from "@/stores/job";
import { useSheets } from "@/stores/sheets";
import { useStage } from "@/stores/stage";
import TryOutsPanel from "@/tryouts/TryOutsPanel.vue";
import TryOutTray from "@/tryouts/TryOutTray.vue";

import TheTray from "./TheTray.vue";

const props = defineProps<{ id: number; trying?: boolean }>();
const { t } = useI18n();
const router = useRouter();
const job = useJob();
const stage = useStage();
const sheets = useSheets();
const cutter = useCutter();

const jobId = computed(() => job.job?.id);
const result = toRef(job, "result");
const toBench = (): void => {
  if (props.trying) void router.push({ name: "bench", params: { id: props.id } });
};
const images = useStageImages(jobId, result, () => [stage.first, stage.second]);
const shapes = useShapes(result);
const hand = useHand();
watch(shapes, (now) => (hand.nodes = now.map((shape) => shape.nodes)), { immediate: true });
const bars = useEdge(computed(() => job.result?.key), toRef(stage, "axis"), computed(() => stage.seamMm));
useJobProgress(jobId, ({ state, fraction, what, moves }) => {
  if (state === "working" && (job.work === "working" || sheets.working || cutter.working)) {
    job.fraction = fraction;
    job.doing = what;
  }
  if (state === "gone") job.error = new ApiError("job_missing", t("errors.gone"));
  else void job.follow(moves);
});
// Whoever opens a step, by the head's Export say, wants to see it.
watch(() => stage.step, toBench);
useBenchKeys();
const bringAnother = useBringAnother();
usePictureDrop(bringAnother, () => undefined);

onMounted(() => {
  stage.reset();
  void job.open(props.id);
});
watch(() => props.id, (id) => void job.open(id));
watch(() => job.job?.document.name, (name) => (document.title = name ? `${name} · ${t("app.name")}` : t("app.name")));
onUnmounted(() => job.close());
</script>

<template>
  <main class="bench" :class="[trying ? 'x' : stage.axis, { sheets: (stage.step === 'sheets' || cutter.active) && !trying, behind: job.unsent || job.work === 'working' }]">
    <h1 class="visually-hidden">{{ job.job?.document.name ?? t("app.name") }}</h1>
    <TheHead class="head" />
    <TheCourse class="course" :images="images" :shapes="shapes" @open="toBench" />
    <template v-if="trying">
      <TryOutsPanel class="tries" />
      <TryOutTray class="tray" />
    </template>
    <template v-else>
      <SheetsStage v-if="stage.step === 'sheets'" class="stage"><StageMessage /></SheetsStage>
      <CutterStage v-else-if="cutter.active" class="stage"><StageMessage /></CutterStage>
      <template v-else>
        <TheStage class="stage" :images="images" :shapes="shapes"><StageMessage /></TheStage>
        <EdgeView class="edge" :bars="bars" />
      </template>
      <TheTray class="tray" />
    </template>
  </main>
</template>

<style scoped>
.bench { display: grid; height: 100%; grid-template: 56px minmax(0, 1fr) 14px / 210px minmax(0, 1fr) 84px 300px; grid-template-areas: "h h h h" "c s e t" "c . . t"; }
.bench.y { grid-template: 56px minmax(0, 1fr) 84px 14px / 210px minmax(0, 1fr) 300px; grid-template-areas: "h h h" "c s t" "c e t" "c . t"; }
.bench.sheets { grid-template: 56px minmax(0, 1fr) 14px / 210px minmax(0, 1fr) 300px; grid-template-areas: "h h h" "c s t" "c . t"; }
.head { grid-area: h; }
.course { grid-area: c; }
.stage { grid-area: s; margin-top: 14px; }
.edge { grid-area: e; }
.x .edge { margin-top: 14px; }
.tries { grid-row: 2 / 4; grid-column: 2 / 4; }
.tray { grid-area: t; }
@media (max-width: 1120px) {
  .bench { grid-template-columns: 92px minmax(0, 1fr) 76px 268px; }
  .bench.y, .bench.sheets { grid-template-columns: 92px minmax(0, 1fr) 268px; }
}
</style>
