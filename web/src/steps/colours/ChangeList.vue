<script setup lang="ts">
/** What was done to the palette by hand; each can be taken out again. */
import { useI18n } from "vue-i18n";

import type { ColoursSettings, PaletteChange } from "@/api/types";
import AppButton from "@/ui/AppButton.vue";

const props = defineProps<{ settings: ColoursSettings; missed: number[] }>();
const emit = defineEmits<{ settle: [change: Partial<ColoursSettings>] }>();
const { t } = useI18n();

function takeOut(at: number): void {
  emit("settle", { palette_changes: props.settings.palette_changes.filter((_, i) => i !== at) });
}

const swatches = ({ colour, into }: PaletteChange): string[] => [colour, into].flatMap((key) => (key ? [key.slice(0, 7)] : []));
</script>

<template>
  <ul v-if="settings.palette_changes.length" class="changes" :aria-label="t('palette.changes')">
    <li v-for="(change, i) in settings.palette_changes" :key="i" :class="{ missed: missed.includes(i) }">
      <i v-for="(colour, k) in swatches(change)" :key="k" :style="{ background: colour }" />
      <span>{{ t(`palette.did.${change.kind}`) }}<template v-if="missed.includes(i)"> · {{ t("palette.missed") }}</template></span>
      <AppButton small look="quiet" :aria-label="t('palette.takeOut', { number: i + 1 })" @click="takeOut(i)">{{ t("touch.out") }}</AppButton>
    </li>
  </ul>
</template>

<style scoped>
.changes { list-style: none; margin: 0; padding: 0; font-size: 0.86rem; }
li { display: flex; align-items: center; gap: 6px; }
li.missed { color: var(--soft); }
i { width: 14px; height: 14px; border: 1px solid var(--edge); }
li button { margin-left: auto; }
</style>
