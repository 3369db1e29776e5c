<script setup lang="ts">
import { computed, defineAsyncComponent, onMounted, onUnmounted, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { RouterLink, useRouter } from "vue-router";

import { ApiError } from "@/api/client";
import { samplePicture } from "@/api/shelf";
import type { JobSummary } from "@/api/types";
import { useErrorWords } from "@/composables/useErrorWords";
import { usePictureDrop } from "@/composables/usePictureDrop";
import { foundBy, inOrder, isBundle, tagsOf, type Order } from "@/core/shelf";
import { formatBytes } from "@/core/units";
import HelpButton from "@/help/HelpButton.vue";
import WordMark from "@/head/WordMark.vue";
import { BenchPage } from "@/router";
import { useShelf } from "@/stores/shelf";
import { useStage } from "@/stores/stage";
import AppButton from "@/ui/AppButton.vue";
import AppDialog from "@/ui/AppDialog.vue";
import AppFold from "@/ui/AppFold.vue";
import AppNotice from "@/ui/AppNotice.vue";

import JobCard from "./JobCard.vue";
import ShelfTools from "./ShelfTools.vue";

const ScanDialog = defineAsyncComponent(() => import("@/scanner/ScanDialog.vue"));
const FIRST_LOOK_MS = 1000;
const MOST_TOLD = 12; // damaged things; those behind them are told once these are whole
const MOST_SHOWN = 200; // cards at once; further ones on wish
const { t } = useI18n();
const router = useRouter();
const shelf = useShelf();
const words = useErrorWords();
const chooser = ref<HTMLInputElement>();
const leaving = ref<JobSummary | null>(null);
const asking = ref(false);
const scanning = ref(false);
const stage = useStage();
const question = ref("");
const order = ref<Order>("changed");
const picked = ref<number[]>([]);
const most = ref(MOST_SHOWN);
const found = computed(() => inOrder(foundBy(shelf.jobs, question.value), order.value));
const pickedJobs = computed(() => shelf.jobs.filter(({ id }) => picked.value.includes(id)));
const tags = computed(() => tagsOf(shelf.jobs).slice(0, 12));
watch([question, order], () => (most.value = MOST_SHOWN));
function pick(id: number): void {
  picked.value = picked.value.includes(id) ? picked.value.filter((own) => own !== id) : [...picked.value, id];
}
/** Pictures that came in at once, until it is said whether they belong together. */
const several = ref<File[]>([]);

function bring(files: File[]): void {
  const bundles = files.filter(isBundle);
  if (bundles.length) void bringBundles(bundles);
  if (bundles.length) files = files.filter((file) => !isBundle(file));
  if (!files.length) return;
  if (files.length > 1) several.value = files;
  else void bringAs(files, false);
}
/** together: as one job. */
async function bringAs(files: File[], together: boolean): Promise<void> {
  several.value = [];
  const job = await (together ? shelf.bringTogether(files) : shelf.bring(files));
  if (job && !shelf.error) await router.push({ name: "bench", params: { id: job.id } });
}
async function bringBundles(files: File[]): Promise<void> {
  const before = shelf.jobs.length;
  const job = await shelf.bringBundles(files);
  // One job that has come back is opened; several lie on the shelf.
  if (job && !shelf.error && shelf.jobs.length === before + 1) await router.push({ name: "bench", params: { id: job.id } });
}
async function trySample(name: string): Promise<void> {
  const job = await shelf.sample(name);
  if (job) await router.push({ name: "bench", params: { id: job.id } });
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
  void shelf.tellDamage();
  requestIdleCallback(() => void BenchPage());
});
</script>

<template>
  <div class="page" :class="{ empty: shelf.loaded && !shelf.jobs.length }">
    <header><WordMark /><span>{{ t("app.tagline") }}</span><RouterLink class="how" :to="{ name: 'how' }">{{ t("howItGoes.title") }}</RouterLink><HelpButton /></header>
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
          <p>{{ t("shelf.or") }} <AppButton look="main" @click="chooser?.click()">{{ t("shelf.choose") }}</AppButton> {{ t("shelf.orElse") }} <AppButton @click="scanning = true">{{ t("scanner.open") }}</AppButton></p>
          <p class="soft">{{ t("shelf.kinds") }}</p>
          <div v-if="shelf.loaded && !shelf.jobs.length && shelf.samples.length" class="samples">
            <p>{{ t("shelf.trySample") }}</p>
            <button v-for="name in shelf.samples" :key="name" type="button" :aria-label="t(`shelf.samples.${name.split('.')[0]}`)" @click="trySample(name)">
              <img :src="samplePicture(name)" alt="" /><span>{{ t(`shelf.samples.${name.split(".")[0]}`) }}</span>
            </button>
          </div>
        </template>
        <input ref="chooser" type="file" accept="image/*,.heic,.heif,.zip,.svg,.dxf" multiple class="visually-hidden" tabindex="-1" :aria-label="t('shelf.choose')" @change="onChosen" />
      </section>
      <section :aria-label="t('shelf.title')">
        <h1>{{ t("shelf.title") }}</h1>
        <p v-if="shelf.loaded && !shelf.jobs.length" class="soft">{{ t("shelf.none") }}</p>
        <AppNotice v-if="shelf.lastThrown.length" kind="note" class="thrown" :close-label="t('app.close')" @close="shelf.lastThrown = []">
          {{ t("shelf.thrownNow", { name: shelf.lastThrown[0]?.name ?? "", count: shelf.lastThrown.length }, shelf.lastThrown.length) }}
          <template #actions><AppButton small @click="shelf.putBack(shelf.lastThrown)">{{ t("shelf.putBack") }}</AppButton></template>
        </AppNotice>
        <AppNotice
          v-if="shelf.damage" :kind="shelf.damage.length ? 'error' : 'note'" class="thrown" :close-label="t('app.close')"
          :title="shelf.damage.length ? t('shelf.damaged', shelf.damage.length) : undefined" @close="shelf.damage = null"
        >
          <template v-if="!shelf.damage.length">{{ t("shelf.allWhole") }}</template>
          <template v-for="sentence in shelf.damage.slice(0, MOST_TOLD)" :key="sentence">{{ sentence }}<br /></template>
        </AppNotice>
        <ShelfTools v-if="shelf.jobs.length" v-model:question="question" v-model:order="order" :picked="pickedJobs" :tags="tags" @let-go="picked = []" />
        <p v-if="shelf.jobs.length && !found.length" class="soft" role="status">{{ t("shelf.notFound", { question }) }}</p>
        <ul class="jobs">
          <JobCard
            v-for="job in found.slice(0, most)" :key="`${job.id}/${job.name}`" :job="job" :unit="stage.unit" :picked="picked.includes(job.id)" @remove="shelf.takeOff([job])" @pick="pick(job.id)"
            @rename="shelf.rename(job.id, $event)" @copy="shelf.copy(job.id, t('shelf.copyOf', { name: job.name }).slice(0, 80))" @tag="shelf.tag([job], [$event])" @untag="shelf.tag([job], [], [$event])"
            @search="question = $event"
          />
        </ul>
        <AppButton v-if="found.length > most" @click="most += MOST_SHOWN">{{ t("shelf.showMore", found.length - most) }}</AppButton>
        <AppFold v-if="shelf.thrown.length" :title="t('shelf.thrown')" name="shelf-thrown" :note="String(shelf.thrown.length)">
          <p class="soft">{{ t("shelf.thrownHint") }}</p>
          <ul class="gone">
            <li v-for="job in shelf.thrown" :key="job.id">
              <span>{{ job.name }}</span>
              <AppButton small @click="shelf.putBack([job])">{{ t("shelf.putBack") }}</AppButton>
              <AppButton small look="quiet" @click="ask(job)">{{ t("shelf.forGood") }}</AppButton>
            </li>
          </ul>
        </AppFold>
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
    <ScanDialog v-if="scanning" v-model="scanning" @scanned="bring([$event])" />
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
header { background: var(--head); color: var(--on-head); display: flex; align-items: center; gap: 20px; padding: 0 24px; overflow: hidden; }
header .how { margin-left: auto; color: inherit; text-underline-offset: 3px; }
header > span:nth-of-type(2) { color: var(--soft-on-head); font-size: 13.5px; }
main { width: min(1120px, 100%); margin: 0 auto; padding: 28px 24px 40px; display: grid; gap: 26px; align-content: start; }
.drop { background: var(--card); border: 2px dashed var(--stitch); border-radius: 4px; padding: 30px 24px; text-align: center; display: grid; gap: 10px; justify-items: center; }
.empty .drop { padding: 110px 24px; }
.drop.over { border-color: var(--seam); background: var(--tint); }
.drop h2 { font-size: 26px; overflow-wrap: anywhere; }
h1 { font-size: 20px; margin-bottom: 12px; }
.jobs { list-style: none; margin: 0; padding: 0; display: grid; grid-template-columns: repeat(auto-fill, minmax(220px, 1fr)); gap: 18px; }
.thrown { margin-bottom: 12px; }
.gone { list-style: none; margin: 0; padding: 0; display: grid; gap: 6px; }
.gone li { display: flex; gap: 10px; align-items: center; }
.gone span { flex: 0 1 340px; overflow-wrap: anywhere; }
.samples { display: flex; flex-wrap: wrap; gap: 12px; justify-content: center; align-items: end; margin-top: 18px; }
.samples p { flex-basis: 100%; }
.samples button { border: 1px solid var(--line); background: var(--paper); padding: 8px; cursor: pointer; display: grid; gap: 6px; width: 150px; justify-items: center; }
.samples button:hover { border-color: var(--seam); }
.samples img { height: 110px; max-width: 130px; object-fit: contain; }
.thread { width: 260px; height: 3px; background: var(--shade); overflow: hidden; }
.thread span { display: block; width: 40%; height: 100%; background: var(--seam); animation: run 1.1s linear infinite; }
@keyframes run { from { transform: translateX(-100%); } to { transform: translateX(260%); } }
</style>
