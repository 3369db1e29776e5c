<script setup lang="ts">
/** The ways to bring something into the make. */
import { defineAsyncComponent, ref } from "vue";
import { useI18n } from "vue-i18n";

import { useAddItem } from "@/composables/useAddItem";
import { useBringAnother } from "@/composables/useBringAnother";
import { useTools } from "@/stores/tools";

const ScanDialog = defineAsyncComponent(() => import("@/scanner/ScanDialog.vue"));
const { t } = useI18n();
const scanning = ref(false);
const tools = useTools();
const choose = useBringAnother();
/** The second click of a double click brings nothing more in. */
const once = (event: MouseEvent, act: () => unknown): void => void (event.detail < 2 && act());
const { addLettering, addShape, addBorder, draw } = useAddItem();
const WAYS = [
  { name: "addPicture", act: () => choose(), path: "M5 8h30v24H5zM5 27l9-9 7 7 5-5 9 8" },
  { name: "addScan", act: () => (scanning.value = true), path: "M6 9h28v22H6zM6 15h28M11 26l5-5 4 4 4-6 5 7" },
  { name: "addLettering", act: addLettering, path: "M9 31 18 9h4l9 22M13 23h14" },
  { name: "addShape", act: addShape, path: "M20 33C8 24 5 19 5 14a7.500 7.500 0 0 1 15-1 7.500 7.500 0 0 1 15 1c0 5-3 10-15 19z" },
  { name: "addDrawn", act: draw, path: "M6 28c6-18 12-18 13-9s5 11 8 2 5-8 8-6" },
  { name: "addBorder", act: addBorder, path: "M13 13h14v14H13zM7 12a5 5 0 0 1 5-5h16a5 5 0 0 1 5 5v16a5 5 0 0 1-5 5H12a5 5 0 0 1-5-5z" },
] as const;
</script>

<template>
  <div class="ways" role="group" :aria-label="t('arrange.add')">
    <button
      v-for="way in WAYS" :key="way.name" type="button" :class="{ on: way.name === 'addDrawn' && tools.tool?.name === 'drawn' }"
      :aria-pressed="way.name === 'addDrawn' ? tools.tool?.name === 'drawn' : undefined" @click="once($event, way.act)"
    >
      <svg viewBox="0 0 40 40" width="30" height="30" aria-hidden="true" fill="none" stroke="currentColor" stroke-width="2" stroke-linejoin="round" stroke-linecap="round"><path :d="way.path" /></svg>
      <span>{{ t(`arrange.${way.name}`) }}</span>
    </button>
  </div>
  <ScanDialog v-if="scanning" v-model="scanning" @scanned="choose([$event])" />
  <p v-if="tools.tool?.name === 'drawn'" class="soft" role="status"><b>{{ t("arrange.drawing") }}.</b> {{ t("arrange.drawHint") }}</p>
</template>

<style scoped>
.ways { display: grid; grid-template-columns: repeat(6, auto); gap: 4px; }
button { display: grid; justify-items: center; gap: 2px; padding: 5px 2px 4px; border: 1px solid var(--line); background: var(--card); color: var(--ink); cursor: pointer; font-size: 11px; min-width: 0; }
button:hover { border-color: var(--stitch); background: var(--paper); }
button.on { border-color: var(--seam); box-shadow: inset 0 -3px 0 var(--seam); }
</style>
