<script setup lang="ts">
/** Ways to cut the subject out, side by side; one press takes one. */
import { useI18n } from "vue-i18n";

import { imagePath } from "@/api/jobs";
import type { BackgroundSettings, Cutout } from "@/api/types";

defineProps<{ cutouts: Cutout[]; chosen: Cutout["name"] | null }>();
const emit = defineEmits<{ settle: [change: Partial<BackgroundSettings>] }>();
const { t } = useI18n();
</script>

<template>
  <section class="cutouts" :aria-label="t('background.cutouts')">
    <h3>{{ t("background.cutouts") }}</h3>
    <div class="row">
      <button
        v-for="cutout in cutouts"
        :key="cutout.name"
        type="button"
        :aria-pressed="cutout.name === chosen"
        @click="emit('settle', { mode: 'subject', cutout: cutout.name })"
      >
        <img :src="`/api${imagePath(cutout.image)}`" alt="" />
        {{ t(`background.cutoutNames.${cutout.name}`) }}
      </button>
    </div>
    <p class="soft">{{ t("background.noneOfThese") }}</p>
  </section>
</template>

<style scoped>
.cutouts { display: grid; gap: 6px; }
.cutouts h3, .cutouts p { margin: 0; }
.cutouts h3 { font-size: 0.9rem; }
.row { display: grid; grid-template-columns: repeat(3, 1fr); gap: 8px; }
button { display: grid; gap: 4px; align-content: start; padding: 4px; border: 2px solid transparent; border-radius: 8px; background: var(--card); color: inherit; font: inherit; font-size: 0.8rem; line-height: 1.2; cursor: pointer; }
button:hover { border-color: var(--line, currentColor); }
button[aria-pressed="true"] { border-color: var(--seam); font-weight: 700; }
img { width: 100%; aspect-ratio: 1; object-fit: contain; border-radius: 5px; background: repeating-conic-gradient(#c9c2b6 0 25%, #efe9de 0 50%) 0 0 / 12px 12px; }
</style>
