<script setup lang="ts">
import { onMounted, onUnmounted, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import { ApiError } from "@/api/client";
import type { JobSummary } from "@/api/types";
import { useErrorWords } from "@/composables/useErrorWords";
import { usePictureDrop } from "@/composables/usePictureDrop";
import { formatBytes } from "@/core/units";
import WordMark from "@/head/WordMark.vue";
import { useShelf } from "@/stores/shelf";
import AppButton from "@/ui/AppButton.vue";
import AppDialog from "@/ui/AppDialog.vue";
import AppNotice from "@/ui/AppNotice.vue";

import JobCard from "./JobCard.vue";

const FIRST_LOOK_MS = 1000;
const { t } = useI18n();
const router = useRouter();
const shelf = useShelf();
const words = useErrorWords();
const chooser = ref<HTMLInputElement>();
const leaving = ref<JobSummary | null>(null);
const asking = ref(false);
/** Pictures that came in at once, until it is said whether they belong together. */
const several = ref<File[]>([]);

function bring(files: File[]): void {
  if (files.length > 1) several.value = files;
  else void bringAs(files, false);
}
/** together: as one job. */
async function bringAs(files: File[], together: boolean): Promise<void> {
  several.value = [];
  const job = await (together ? shelf.bringTogether(files) : shelf.bring(files));
  if (job && !shelf.error) await router.push({ name: "bench", params: { id: job.id } });
}
function onChosen(event: Event): void {
  const input = event.target as HTMLInputElement;
  const files = [...(input.files ?? [])];
  input.value = "";
  if (files.length) bring(files);
}
function ask(job: JobSummary): void {
  leaving.value = job;
  asking.value = true;
}
async function remove(): Promise<void> {
  asking.value = false;
  if (leaving.value) await shelf.remove(leaving.value.id);
}
const over = usePictureDrop(bring, () => (shelf.error = new ApiError("no_picture", t("shelf.noPicture"))));
// Looks again ever more seldom, since a job that nothing is left of to cut never gets a picture.
let wait = FIRST_LOOK_MS;
let timer: ReturnType<typeof setTimeout> | undefined;
watch(
  () => shelf.jobs,
  (jobs) => {
    clearTimeout(timer);
    if (jobs.every((job) => job.has_thumbnail || !job.readable)) return;
    timer = setTimeout(() => void shelf.lookAgain(), wait);
    wait *= 1.5;
  },
);
onUnmounted(() => clearTimeout(timer));
onMounted(() => {
  document.title = t("app.name");
  void shelf.load();
});
</script>

<template>
  <div class="page" :class="{ empty: shelf.loaded && !shelf.jobs.length }">
    <header><WordMark /><span>{{ t("app.tagline") }}</span></header>
    <main>
      <AppNotice v-if="shelf.error" kind="error" :title="t('errors.title')" :close-label="t('app.close')" @close="shelf.error = null">
        {{ words(shelf.error) }}
      </AppNotice>
      <section class="drop" :class="{ over }">
        <template v-if="shelf.bringing">
          <h2 role="status">{{ t("shelf.bringing", { name: shelf.bringing }) }}</h2>
          <div class="thread" aria-hidden="true"><span /></div>
        </template>
        <template v-else>
          <h2>{{ t(over ? "shelf.dropNow" : "shelf.drop") }}</h2>
          <p>{{ t("shelf.or") }} <AppButton look="main" @click="chooser?.click()">{{ t("shelf.choose") }}</AppButton></p>
          <p class="soft">{{ t("shelf.kinds") }}</p>
        </template>
        <input ref="chooser" type="file" accept="image/*" multiple class="visually-hidden" tabindex="-1" :aria-label="t('shelf.choose')" @change="onChosen" />
      </section>
      <section :aria-label="t('shelf.title')">
        <h1>{{ t("shelf.title") }}</h1>
        <p v-if="shelf.loaded && !shelf.jobs.length" class="soft">{{ t("shelf.none") }}</p>
        <ul class="jobs">
          <JobCard v-for="job in shelf.jobs" :key="job.id" :job="job" @remove="ask(job)" />
        </ul>
        <p v-if="shelf.freed > 1e5" class="soft">{{ t("shelf.freed", { size: formatBytes(shelf.freed) }) }}</p>
      </section>
    </main>
    <AppDialog :model-value="several.length > 0" :title="t('shelf.severalTitle', several.length)" @update:model-value="several = []">
      <p>{{ t("shelf.severalText") }}</p>
      <template #actions>
        <AppButton look="quiet" @click="several = []">{{ t("app.cancel") }}</AppButton>
        <AppButton @click="bringAs(several, true)">{{ t("shelf.severalOne") }}</AppButton>
        <AppButton look="main" @click="bringAs(several, false)">{{ t("shelf.severalEach") }}</AppButton>
      </template>
    </AppDialog>
    <AppDialog v-model="asking" :title="t('shelf.removeTitle')">
      <p>{{ t("shelf.removeText", { name: leaving?.name ?? "" }) }}</p>
      <template #actions>
        <AppButton look="quiet" @click="asking = false">{{ t("app.cancel") }}</AppButton>
        <AppButton look="main" @click="remove">{{ t("shelf.removeYes") }}</AppButton>
      </template>
    </AppDialog>
  </div>
</template>

<style scoped>
.page { min-height: 100%; display: grid; grid-template-rows: 56px 1fr; }
header { background: var(--ink); color: #f4efe3; display: flex; align-items: center; gap: 20px; padding: 0 24px; overflow: hidden; }
header > span:last-child { color: #c5c2b6; font-size: 13.5px; }
main { width: min(1120px, 100%); margin: 0 auto; padding: 28px 24px 40px; display: grid; gap: 26px; align-content: start; }
.drop { background: var(--card); border: 2px dashed var(--stitch); border-radius: 4px; padding: 30px 24px; text-align: center; display: grid; gap: 10px; justify-items: center; }
.empty .drop { padding: 110px 24px; }
.drop.over { border-color: var(--seam); background: #fff7fa; }
.drop h2 { font-size: 26px; overflow-wrap: anywhere; }
h1 { font-size: 20px; margin-bottom: 12px; }
.jobs { list-style: none; margin: 0; padding: 0; display: grid; grid-template-columns: repeat(auto-fill, minmax(220px, 1fr)); gap: 18px; }
.thread { width: 260px; height: 3px; background: #d6cebd; overflow: hidden; }
.thread span { display: block; width: 40%; height: 100%; background: var(--seam); animation: run 1.1s linear infinite; }
@keyframes run { from { transform: translateX(-100%); } to { transform: translateX(260%); } }
</style>
