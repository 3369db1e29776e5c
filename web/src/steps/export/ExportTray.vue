<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { ApiError, ask } from "@/api/client";
import { exportPath } from "@/api/jobs";
import { formatSize } from "@/core/units";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import AppButton from "@/ui/AppButton.vue";
import AppIcon from "@/ui/AppIcon.vue";
import AppNotice from "@/ui/AppNotice.vue";

const { t } = useI18n();
const job = useJob();
const stage = useStage();
const busy = ref(false);
const handedOver = ref("");
const layers = computed(() => job.result?.layers ?? []);
const nodes = computed(() => layers.value.reduce((sum, layer) => sum + layer.nodes, 0));
const metres = computed(() => ((job.result?.cut_length_mm ?? 0) / 1000).toFixed(2));
const size = computed(() => (job.result ? formatSize(job.result.width_mm, job.result.height_mm, stage.unit) : ""));

async function download(): Promise<void> {
  if (!job.job || busy.value) return;
  busy.value = true;
  handedOver.value = "";
  try {
    const answer = await ask(exportPath(job.job.id, "svg"));
    const named = /filename\*=UTF-8''([^;]+)/.exec(answer.headers.get("Content-Disposition") ?? "");
    const link = document.createElement("a");
    link.href = URL.createObjectURL(await answer.blob());
    link.download = decodeURIComponent(named?.[1] ?? "bisectum.svg");
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
    handedOver.value = link.download;
  } catch (reason) {
    job.error = reason instanceof ApiError ? reason : new ApiError("offline", String(reason));
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <p class="soft">{{ t("export.intro") }}</p>
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
  <AppButton look="main" :disabled="busy || !job.result || job.work === 'working'" @click="download">
    <AppIcon name="download" />{{ t(busy ? "export.checking" : "export.download") }}
  </AppButton>
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
