<script setup lang="ts">
/** Pinning a colour: with the dropper on the stage, or typed. */
import { computed, onScopeDispose, ref } from "vue";
import { useI18n } from "vue-i18n";

import { dropColour } from "@/api/jobs";
import type { ColoursSettings } from "@/api/types";
import type { Point } from "@/core/nodeGrid";
import { useJob } from "@/stores/job";
import { useTools } from "@/stores/tools";
import AppButton from "@/ui/AppButton.vue";

const props = defineProps<{ settings: ColoursSettings }>();
const emit = defineEmits<{ settle: [change: Partial<ColoursSettings>] }>();
const { t } = useI18n();
const job = useJob();
const tools = useTools();
const TOOL = "dropper";
const typed = ref("");
const name = ref("");
const dropping = computed(() => tools.tool?.name === TOOL);
const colour = computed(() => /^#?([0-9a-f]{6})$/i.exec(typed.value.trim())?.[1]?.toLowerCase());
const wrong = computed(() => typed.value.trim() !== "" && !colour.value);

function pin(value: string): void {
  const rest = props.settings.pins.filter((own) => own.colour !== value);
  emit("settle", { pins: [...rest, { colour: value, name: name.value.trim() }] });
  typed.value = name.value = "";
}

async function drop(at: Point | undefined): Promise<void> {
  const id = job.job?.id;
  if (!at || id === undefined || !job.item) return;
  const { colour: found } = await dropColour(id, job.item.id, at.x, at.y);
  if (found) typed.value = found;
}

function take(): void {
  tools.toggle({
    name: TOOL, kind: "click", done: ({ points: [at] }) => void drop(at), hover: (at) => (tools.loupe = at),
  });
}

onScopeDispose(() => {
  tools.take(null);
  tools.loupe = null;
});
</script>

<template>
  <section class="pin" :aria-label="t('palette.pinTitle')">
    <h3>{{ t("palette.pinTitle") }}</h3>
    <div class="row">
      <AppButton small :pressed="dropping" @click="take">{{ t("palette.dropper") }}</AppButton>
      <input v-model="typed" class="hex" type="text" maxlength="7" placeholder="#f2c14e" :aria-label="t('palette.value')" :aria-invalid="wrong" />
      <span class="swatch" :style="colour ? { background: `#${colour}` } : {}" />
    </div>
    <p class="soft" aria-live="polite">{{ t(wrong ? "palette.wrong" : dropping ? "palette.howDropper" : "palette.howPin") }}</p>
    <form v-if="colour" class="row" @submit.prevent="pin(`#${colour}`)">
      <input v-model="name" type="text" maxlength="60" class="name" :placeholder="t('palette.namePlaceholder')" :aria-label="t('palette.name')" />
      <AppButton small look="main" @click="pin(`#${colour}`)">{{ t("palette.pinIt") }}</AppButton>
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
