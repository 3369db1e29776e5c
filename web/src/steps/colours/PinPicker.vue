<script setup lang="ts">
/** Pinning a colour: with the dropper on the stage, or typed. */
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { ColoursSettings } from "@/api/types";
import { useDropper } from "@/composables/useDropper";
import { useJob } from "@/stores/job";
import AppButton from "@/ui/AppButton.vue";

const props = defineProps<{ settings: ColoursSettings }>();
const { t } = useI18n();
const typed = ref("");
const name = ref("");
const job = useJob();
const { isDropping, toggle } = useDropper("dropper", async (found) => {
  typed.value = found;
  name.value = "";
  if (!props.settings.pins.some((own) => own.colour === found)) await job.edit("colours", { add: { pins: [{ colour: found }] } });
});
const colour = computed(() => /^#?([0-9a-f]{6})$/i.exec(typed.value.trim())?.[1]?.toLowerCase());
const wrong = computed(() => typed.value.trim() !== "" && !colour.value);

const there = computed(() => props.settings.pins.findIndex((own) => own.colour === `#${colour.value}`));

/** Pin a typed colour, or name one that is pinned. */
function pin(value: string): void {
  const add = { pins: [{ colour: value, name: name.value.trim() }] };
  void job.edit("colours", there.value < 0 ? { add } : { add, take_out: { pins: [there.value] } });
  typed.value = name.value = "";
}
</script>

<template>
  <section class="pin" :aria-label="t('palette.pinTitle')">
    <h3>{{ t("palette.pinTitle") }}</h3>
    <div class="row">
      <AppButton small :pressed="isDropping" @click="toggle">{{ t("palette.dropper") }}</AppButton>
      <input v-model="typed" class="hex" type="text" maxlength="7" placeholder="#f2c14e" :aria-label="t('palette.value')" :aria-invalid="wrong" />
      <span class="swatch" :style="colour ? { background: `#${colour}` } : {}" />
    </div>
    <p class="soft" aria-live="polite">{{ t(wrong ? "palette.wrong" : isDropping ? "palette.howDropper" : "palette.howPin") }}</p>
    <form v-if="colour" class="row" @submit.prevent="pin(`#${colour}`)">
      <input v-model="name" type="text" maxlength="60" class="name" :placeholder="t('palette.namePlaceholder')" :aria-label="t('palette.name')" />
      <AppButton small look="main" :disabled="there >= 0 && !name.trim()" @click="pin(`#${colour}`)">{{ t(there >= 0 ? "palette.nameIt" : "palette.pinIt") }}</AppButton>
    </form>
  </section>
</template>

<style scoped>
.pin { border: 1px solid var(--line); background: var(--card); padding: 8px 10px; display: grid; gap: 6px; }
.pin h3, .pin p { margin: 0; }
.row { display: flex; gap: 6px; align-items: center; }
.hex { width: 92px; }
.name { flex: 1; min-width: 0; }
input { font: inherit; padding: 4px 8px; border: 1px solid var(--line); border-radius: 3px; background: var(--paper); }
input[aria-invalid="true"] { border-color: var(--seam); }
.swatch { width: 28px; height: 28px; border: 1px solid var(--edge); }
</style>
