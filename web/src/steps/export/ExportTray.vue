<script setup lang="ts">
/** What leaves the house: which files, as what, and the sheet of paper that goes with them. */
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { clearedPath, exportPath, sheetsPath } from "@/api/jobs";
import { useDownload } from "@/composables/useDownload";
import { FILE_KINDS, useFileKind } from "@/composables/useFileKind";
import { formatSize } from "@/core/units";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import AppButton from "@/ui/AppButton.vue";
import AppCheck from "@/ui/AppCheck.vue";
import AppFold from "@/ui/AppFold.vue";
import AppIcon from "@/ui/AppIcon.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSelect from "@/ui/AppSelect.vue";
import AppText from "@/ui/AppText.vue";

import { runsUnder } from "@/core/builds";
import BuildSheet from "./BuildSheet.vue";
import LeftFiles from "./LeftFiles.vue";

const PER = ["make", "layer", "piece", "sheet", "cloth", "cleared"] as const;
const DRAWN = ["filled", "hairline", "outline", "printed", "pictured"] as const;
const SPOT_KEY = "bisectum.spot";
const { t } = useI18n();
const kind = useFileKind();
const kinds = computed(() => FILE_KINDS.map((value) => ({ value, label: t(`export.kinds.${value}`) })));
const job = useJob();
const stage = useStage();
const { busy, handedOver, download } = useDownload();
const per = ref<(typeof PER)[number]>("make");
const drawn = ref<(typeof DRAWN)[number]>("filled");
const cloth = ref("");
const dpi = ref("300");
const dpis = ["150", "300", "600"].map((value) => ({ value, label: t("export.dpi", { count: value }) }));
/** What the person's cutting program calls the line that it cuts along, remembered from job to job. */
const spot = ref(localStorage.getItem(SPOT_KEY) ?? "Cut line");
watch(spot, (value) => localStorage.setItem(SPOT_KEY, value));
const hasSpot = computed(() => kind.value === "pdf" && drawn.value !== "filled");
/** Numbers of layers that are not wanted. */
const left = ref<number[]>([]);
const layers = computed(() => job.result?.layers ?? []);
const nodes = computed(() => layers.value.reduce((sum, layer) => sum + layer.nodes, 0));
const size = computed(() => (job.result ? formatSize(job.result.width_mm, job.result.height_mm, stage.unit) : ""));
const variants = computed(() => job.make?.layers.variants ?? []);
const cloths = computed(() => [{ value: "", label: job.make?.layers.cloth || t("layers.ownCloth") }, ...variants.value.map(({ id, cloth: label }) => ({ value: id, label }))]);
const pers = computed(() => PER.filter((value) => value !== "cloth" || variants.value.length > 0).map((value) => ({ value, label: t(`export.per.${value}`) })));
const draws = computed(() => DRAWN.filter((value) => value !== "pictured" || kind.value === "pdf").map((value) => ({ value, label: t(`export.drawn.${value}`) })));
const chosen = computed(() => layers.value.map((_, i) => i).filter((i) => !left.value.includes(i)));
const some = computed(() => (left.value.length ? chosen.value : []));
const path = computed(() => {
  const id = job.job?.id ?? 0;
  if (per.value === "cleared") return clearedPath(id, job.item?.id ?? "");
  if (per.value === "sheet") return sheetsPath(id, kind.value, cloth.value);
  return exportPath(id, kind.value, {
    cloth: cloth.value, per: per.value, drawn: drawn.value, layers: some.value, dpi: kind.value === "png" ? Number(dpi.value) : undefined, spot: hasSpot.value ? spot.value : undefined,
  });
});
watch(kind, (value) => {
  if (value !== "pdf" && drawn.value === "pictured") drawn.value = "printed";
});
watch(() => layers.value.length, () => (left.value = []));
watch(variants, () => {
  if (!variants.value.some(({ id }) => id === cloth.value)) cloth.value = "";
  if (per.value === "cloth" && !variants.value.length) per.value = "make";
});
function want(number: number, wanted: boolean): void {
  left.value = wanted ? left.value.filter((own) => own !== number) : [...left.value, number];
}
</script>

<template>
  <p class="soft number told">{{ t("export.facts", { size, nodes, layers: layers.length }, layers.length) }}</p>
  <AppSelect v-model="per" :label="t('export.what')" :options="pers" />
  <p v-if="per === 'cleared'" class="soft">{{ t("export.clearedHint", { name: job.item?.name ?? "" }) }}</p>
  <AppSelect v-if="variants.length && per !== 'cloth' && per !== 'cleared'" v-model="cloth" :label="t('export.cloth')" :options="cloths" />
  <template v-if="per !== 'cleared'">
    <AppSelect v-model="kind" :label="t('export.kind')" :options="kinds" />
    <p class="soft">{{ t(`export.kindHints.${kind}`) }}</p>
  </template>
  <template v-if="per !== 'sheet' && per !== 'cleared'">
    <AppSelect v-model="drawn" :label="t('export.draw')" :options="draws" />
    <p v-if="drawn === 'printed' || drawn === 'pictured'" class="soft">{{ t("export.printedHint") }}</p>
    <label v-if="hasSpot" class="spot"><b>{{ t("export.spot") }}</b><AppText :label="t('export.spot')" :value="spot" @settle="spot = $event.replace(/[^A-Za-z0-9 _.-]/g, '').trim().slice(0, 60) || 'Cut line'" /></label>
    <AppSelect v-if="kind === 'png'" v-model="dpi" :label="t('export.resolution')" :options="dpis" />
    <AppFold v-if="layers.length > 1" :title="t('export.layers')" name="export-layers" :note="t('export.layersOf', { some: chosen.length, all: layers.length })">
      <template v-for="(layer, i) in layers" :key="i">
        <AppCheck :label="layer.name" :value="!left.includes(i)" @settle="want(i, $event)" />
        <small v-if="layer.runs_under.length" class="soft under">{{ runsUnder(layer.runs_under, t) }}</small>
      </template>
    </AppFold>
  </template>
  <AppButton look="main" :disabled="busy || !job.result || job.work === 'working' || (per !== 'sheet' && !chosen.length)" @click="download(path)">
    <AppIcon name="download" />{{ busy ? t("export.checking") : t(per === "make" || per === "cleared" ? "export.download" : "export.downloadZip", { kind: per === "cleared" ? "PNG" : t(`export.short.${kind}`) }) }}
  </AppButton>
  <AppNotice v-if="handedOver" kind="note">{{ t("export.done", { file: handedOver }) }}</AppNotice>
  <BuildSheet :cloth="cloth" />
  <LeftFiles :after="handedOver" />
</template>

<style scoped>
.spot { display: grid; gap: 6px; }
.under { margin: -6px 0 0 26px; }
</style>
