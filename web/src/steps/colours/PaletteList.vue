<script setup lang="ts">
import { useI18n } from "vue-i18n";

import type { Layer, Result } from "@/api/types";
import { formatPercent } from "@/core/units";

const props = defineProps<{ palette: Result["facts"]["colours"]["palette"]; layers: Layer[] }>();
const { t } = useI18n();
const layerOf = (key: string): Layer | undefined => props.layers.find((layer) => layer.key === key);
</script>

<template>
  <ul class="list">
    <li v-for="entry in palette" :key="entry.key">
      <span class="swatch" :style="{ background: entry.key }" :title="entry.key" />
      <span class="words">
        <b>{{ layerOf(entry.key)?.name ?? entry.name }}</b>
        <small class="soft">{{ entry.key }}<template v-if="entry.small"> · {{ t("colours.small") }}</template></small>
      </span>
      <span class="number soft">{{ formatPercent(entry.share) }}</span>
    </li>
  </ul>
</template>

<style scoped>
.list { list-style: none; padding: 0; margin: 0; max-height: 300px; overflow-y: auto; border: 1px solid var(--line); background: var(--card); }
li { display: grid; grid-template-columns: 34px minmax(0, 1fr) auto; gap: 10px; align-items: center; padding: 6px 10px 6px 6px; }
li + li { border-top: 1px solid var(--line); }
.swatch { height: 34px; border: 1px solid rgb(0 0 0 / 0.2); }
.words { display: grid; line-height: 1.25; }
b::first-letter { text-transform: uppercase; }
b { display: inline-block; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
</style>
