<script setup lang="ts">
/** Palettes side by side that a photograph could get, and the tap that keeps a colour whatever palette is taken. */
import { useI18n } from "vue-i18n";

import type { ColourFacts, ColoursSettings } from "@/api/types";
import { useDropper } from "@/composables/useDropper";
import { useJob } from "@/stores/job";
import AppButton from "@/ui/AppButton.vue";

const props = defineProps<{ choices: ColourFacts["choices"]; settings: ColoursSettings }>();
const emit = defineEmits<{ settle: [change: Partial<ColoursSettings>] }>();
const { t } = useI18n();
const job = useJob();
const { isDropping, toggle } = useDropper("keep-colour", async (colour) => {
  if (!props.settings.pins.some((pin) => pin.colour === colour)) await job.edit("colours", { add: { pins: [{ colour }] } });
});
</script>

<template>
  <fieldset v-if="choices.length > 1 || choices[0]?.taste !== settings.inks" class="choices">
    <legend>{{ t("inks.title") }}</legend>
    <label v-for="choice in choices" :key="choice.taste" :class="{ taken: choice.taste === settings.inks }">
      <input
        type="radio" name="inks" :checked="choice.taste === settings.inks" :aria-label="t(`inks.tastes.${choice.taste}`)"
        @change="emit('settle', { inks: choice.taste })"
      />
      <span>{{ t(`inks.tastes.${choice.taste}`) }}</span>
      <span class="row" aria-hidden="true"><i v-for="colour in choice.colours" :key="colour" :style="{ background: colour }" /></span>
    </label>
  </fieldset>
  <div class="keep">
    <AppButton small :pressed="isDropping" @click="toggle">{{ t("inks.keep") }}</AppButton>
    <span class="soft" aria-live="polite">{{ t(isDropping ? "inks.tap" : "inks.why") }}</span>
  </div>
</template>

<style scoped>
.choices { border: 0; margin: 0; padding: 0; display: grid; gap: 4px; }
legend { padding: 0; margin-bottom: 4px; font-size: 0.86rem; }
label { display: grid; grid-template-columns: auto 1fr; gap: 2px 8px; padding: 5px 8px; border: 1px solid var(--line); border-radius: 6px; cursor: pointer; font-size: 0.86rem; }
label.taken { border-color: var(--seam); }
label:focus-within { outline: 2px solid var(--seam); outline-offset: 1px; }
input { accent-color: var(--seam); margin: 0; }
.row { grid-column: 1 / -1; display: flex; height: 16px; border-radius: 3px; overflow: hidden; }
.row i { flex: 1; }
.keep { display: flex; gap: 8px; align-items: center; }
.keep > :first-child { flex: none; }
</style>
