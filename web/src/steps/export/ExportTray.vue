<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { exportPath } from "@/api/jobs";
import { useDownload } from "@/composables/useDownload";
import { FILE_KINDS, useFileKind } from "@/composables/useFileKind";
import { formatSize } from "@/core/units";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import AppButton from "@/ui/AppButton.vue";
import AppIcon from "@/ui/AppIcon.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSelect from "@/ui/AppSelect.vue";

const { t } = useI18n();
const kind = useFileKind();
const kinds = computed(() => FILE_KINDS.map((value) => ({ value, label: t(`export.kinds.${value}`) })));
const job = useJob();
const stage = useStage();
const { busy, handedOver, download } = useDownload();
const layers = computed(() => job.result?.layers ?? []);
const nodes = computed(() => layers.value.reduce((sum, layer) => sum + layer.nodes, 0));
const metres = computed(() => ((job.result?.cut_length_mm ?? 0) / 1000).toFixed(2));
const size = computed(() => (job.result ? formatSize(job.result.width_mm, job.result.height_mm, stage.unit) : ""));

const cloths = computed(() => [{ id: "", name: job.make?.layers.cloth ?? "" }, ...(job.make?.layers.variants ?? []).map(({ id, cloth }) => ({ id, name: cloth }))]);
</script>

<template>
  <dl>
    <div><dt>{{ t("export.page") }}</dt><dd class="number">{{ size }}</dd></div>
    <div><dt>{{ t("export.nodes") }}</dt><dd class="number">{{ nodes }}</dd></div>
    <div><dt>{{ t("export.length") }}</dt><dd class="number">{{ t("export.metres", { count: metres }) }}</dd></div>
  </dl>
  <ol class="list">
    <li v-for="layer in layers" :key="layer.key">
      <span class="swatch" :style="{ background: layer.colour }" />
      {{ t("export.layer", { name: layer.name, pieces: t("colours.pieces", layer.pieces) }) }}
    </li>
  </ol>
  <AppSelect v-model="kind" :label="t('export.kind')" :options="kinds" />
  <p class="soft">{{ t(`export.kindHints.${kind}`) }}</p>
  <AppButton
    v-for="cloth in cloths" :key="cloth.id" :look="cloth.id ? 'plain' : 'main'" :disabled="busy || !job.result || job.work === 'working'"
    @click="download(exportPath(job.job?.id ?? 0, kind, cloth.id))"
  >
    <AppIcon name="download" />{{ busy ? t("export.checking") : cloths.length > 1 ? t("export.downloadFor", { kind: t(`export.short.${kind}`), name: cloth.name }) : t("export.download", { kind: t(`export.short.${kind}`) }) }}
  </AppButton>
  <p class="soft">{{ t("export.sheetsHint") }} <AppButton small look="quiet" @click="stage.openStep('sheets')">{{ t("course.sheets") }}</AppButton></p>
  <AppNotice v-if="handedOver" kind="note">{{ t("export.done", { file: handedOver }) }}</AppNotice>
</template>

<style scoped>
dl { margin: 0; display: grid; gap: 4px; }
dl div { display: flex; justify-content: space-between; }
dt { color: var(--soft); }
dd { margin: 0; font-weight: 700; }
.list { list-style: none; margin: 0; padding: 0; border-top: 1px dashed var(--stitch); max-height: 300px; overflow-y: auto; }
.list li { display: flex; gap: 10px; align-items: center; padding: 6px 0; border-bottom: 1px dashed var(--stitch); }
.list li::first-letter { text-transform: uppercase; }
.swatch { width: 18px; height: 18px; border: 1px solid rgb(0 0 0 / 0.25); }
</style>
