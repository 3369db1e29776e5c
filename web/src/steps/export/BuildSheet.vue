<script setup lang="ts">
/** The build sheet: looked at as it will be printed, or taken along. */
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { buildSheetPage, buildSheetPath } from "@/api/check";
import { ask } from "@/api/client";
import { useDownload } from "@/composables/useDownload";
import { useJob } from "@/stores/job";
import AppButton from "@/ui/AppButton.vue";
import AppDialog from "@/ui/AppDialog.vue";
import AppSelect from "@/ui/AppSelect.vue";

const props = defineProps<{ cloth: string }>();
const PAPERS = ["a4", "letter"] as const;
const { t } = useI18n();
const job = useJob();
const { busy, download } = useDownload();
const paper = ref<(typeof PAPERS)[number]>(Intl.DateTimeFormat().resolvedOptions().locale.endsWith("-US") ? "letter" : "a4");
const papers = computed(() => PAPERS.map((value) => ({ value, label: t(`export.papers.${value}`) })));
const shown = ref(false);
const page = ref(1);
const pages = ref(1);
const picture = ref("");
const failed = ref("");

async function look(): Promise<void> {
  if (!shown.value) return;
  try {
    const answer = await ask(buildSheetPage(job.job?.id ?? 0, page.value, paper.value, props.cloth));
    pages.value = Number(answer.headers.get("X-Pages") ?? 1);
    URL.revokeObjectURL(picture.value);
    picture.value = URL.createObjectURL(await answer.blob());
    failed.value = "";
  } catch (reason) {
    failed.value = reason instanceof Error ? reason.message : String(reason);
  }
}
watch([shown, page, paper], () => void look());
function open(): void {
  page.value = 1;
  picture.value = "";
  shown.value = true;
}
</script>

<template>
  <section class="sheet" :aria-label="t('export.buildSheet')">
    <h3>{{ t("export.buildSheet") }}</h3>
    <p class="soft">{{ t("export.buildSheetHint") }}</p>
    <div class="row">
      <AppButton small :disabled="!job.result" @click="open()">{{ t("export.lookAtIt") }}</AppButton>
      <AppButton small :disabled="busy || !job.result" @click="download(buildSheetPath(job.job?.id ?? 0, paper, cloth))">{{ busy ? t("export.checking") : t("export.printIt") }}</AppButton>
    </div>
    <AppSelect v-model="paper" :label="t('export.paper')" :options="papers" />
    <AppDialog v-if="shown" v-model="shown" wide :title="t('export.buildSheet')">
      <p v-if="failed" role="alert">{{ failed }}</p>
      <p v-else-if="!picture" class="soft" role="status">{{ t("export.drawing") }}</p>
      <img v-else :src="picture" :alt="t('export.pageOf', { page, pages })" />
      <template #actions>
        <AppButton :disabled="page <= 1" @click="page--">{{ t("check.previous") }}</AppButton>
        <span class="number">{{ t("export.pageOf", { page, pages }) }}</span>
        <AppButton :disabled="page >= pages" @click="page++">{{ t("check.next") }}</AppButton>
      </template>
    </AppDialog>
  </section>
</template>

<style scoped>
.sheet { border-top: 1px dashed var(--stitch); padding-top: 10px; display: grid; gap: 6px; }
h3 { font-size: 15px; }
.row { display: flex; gap: 6px; }
img { display: block; width: 100%; border: 1px solid var(--line); }
</style>
