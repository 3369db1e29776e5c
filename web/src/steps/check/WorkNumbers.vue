<script setup lang="ts">
/** How much work it is, in all and for each layer. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { LayerWork } from "@/api/types";
import { useCheck } from "@/stores/check";
import { useJob } from "@/stores/job";
import AppFold from "@/ui/AppFold.vue";

const { t } = useI18n();
const check = useCheck();
const job = useJob();
const work = computed(() => check.found?.work);
const minutes = (seconds: number): string => (seconds < 90 ? t("check.seconds", { count: Math.round(seconds) }) : t("check.minutes", { count: Math.round(seconds / 60) }));
const metres = ({ cut_mm }: LayerWork): string => (cut_mm / 1000).toFixed(2);
const rows = computed(() => (check.found?.of_layers ?? []).flatMap((own, i) => {
  const layer = job.result?.layers[i];
  return layer ? [{ name: layer.name, colour: layer.colour, own }] : [];
}));
</script>

<template>
  <AppFold v-if="work" :title="t('check.work')" name="check-work" :note="t('check.workNote', { cut: minutes(work.cut_s), weed: minutes(work.weed_s) })">
    <table>
      <thead><tr><th><span class="visually-hidden">{{ t("check.columns.layer") }}</span></th><th>{{ t("check.columns.pieces") }}</th><th>{{ t("check.columns.metres") }}</th><th>{{ t("check.columns.cut") }}</th><th>{{ t("check.columns.weed") }}</th></tr></thead>
      <tbody>
        <tr v-for="(row, i) in rows" :key="i">
          <td class="name"><i :style="{ background: row.colour }" :title="row.name" />{{ row.name }}</td>
          <td>{{ row.own.pieces }}</td><td>{{ metres(row.own) }}</td><td>{{ minutes(row.own.cut_s) }}</td><td>{{ minutes(row.own.weed_s) }}</td>
        </tr>
      </tbody>
      <tfoot><tr><td>{{ t("check.total") }}</td><td>{{ work.pieces }}</td><td>{{ metres(work) }}</td><td>{{ minutes(work.cut_s) }}</td><td>{{ minutes(work.weed_s) }}</td></tr></tfoot>
    </table>
  </AppFold>
</template>

<style scoped>
table { border-collapse: collapse; width: 100%; font-size: 12.5px; font-variant-numeric: tabular-nums; table-layout: fixed; }
th, td { text-align: right; padding: 3px 2px; font-weight: 400; }
th { color: var(--soft); font-weight: 700; }
th:first-child, td:first-child { text-align: left; width: 32%; }
tfoot td { border-top: 1px dashed var(--stitch); font-weight: 700; }
.name { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
i { display: inline-block; width: 11px; height: 11px; border: 1px solid var(--edge); margin-right: 5px; vertical-align: -1px; }
</style>
