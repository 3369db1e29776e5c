<script setup lang="ts">
/** All sheets, each with a small picture and its file. */
import { useI18n } from "vue-i18n";

import { useSheets } from "@/stores/sheets";
import AppIcon from "@/ui/AppIcon.vue";

defineEmits<{ save: [number: number] }>();
const { t } = useI18n();
const sheets = useSheets();
</script>

<template>
  <ol v-if="sheets.plan" class="sheets" :aria-label="t('sheets.list')">
    <li v-for="(sheet, i) in sheets.plan.sheets" :key="i">
      <svg :viewBox="`0 0 ${sheet.width} ${Math.min(sheet.height, 2 * sheet.width)}`" width="40" height="40" aria-hidden="true">
        <rect :width="sheet.width" :height="sheet.height" fill="var(--board)" />
        <rect :x="sheet.usable[0]" :y="sheet.usable[1]" :width="sheet.usable[2]" :height="sheet.usable[3]" :fill="sheet.colour" opacity="0.55" />
        <g :transform="sheet.mirrored ? `translate(${sheet.width} 0) scale(-1 1)` : undefined">
          <path
            v-for="(place, k) in sheet.places" :key="k" :d="sheets.plan.parts[place.part]?.path" fill-rule="evenodd" stroke="#0006" :stroke-width="sheet.width / 120"
            :fill="sheets.plan.layers[sheets.plan.parts[place.part]?.layer ?? 0]?.colour"
            :transform="`matrix(${[0, 3, 1, 4, 2, 5].map((n) => place.matrix[n]).join(' ')})`"
          />
        </g>
      </svg>
      <span class="words">
        <b>{{ i + 1 }} · {{ sheet.stock }}</b>
        <small class="soft">{{ t("sheets.facts", { parts: t("sheets.parts", sheet.places.length), mirrored: sheet.mirrored ? t("sheets.commaMirrored") : "" }) }}</small>
      </span>
      <button type="button" :disabled="sheet.clashes.length > 0" :title="t(sheet.clashes.length ? 'sheets.cannot' : 'sheets.save', { number: i + 1, sheets: i + 1 })" :aria-label="t('sheets.save', { number: i + 1 })" @click="$emit('save', i + 1)"><AppIcon name="download" /></button>
    </li>
  </ol>
</template>

<style scoped>
.sheets { list-style: none; padding: 0; margin: 0; border: 1px solid var(--line); background: var(--card); max-height: 300px; overflow-y: auto; }
li { display: grid; grid-template-columns: 40px minmax(0, 1fr) auto; gap: 8px; align-items: center; padding: 5px 7px; }
li + li { border-top: 1px solid var(--line); }
.words { display: grid; line-height: 1.25; min-width: 0; }
b { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
button { border: 0; background: none; padding: 5px; display: grid; cursor: pointer; border-radius: 2px; }
button:hover { background: var(--hover); }
</style>
