<script setup lang="ts">
/** The layers put on one by one, with what is done at each step. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Layer } from "@/api/types";
import { useMakeControl } from "@/composables/useStepControl";
import { isPressed } from "@/core/cutFrom";
import { useLayers } from "@/stores/layers";
import { useStage } from "@/stores/stage";
import AppSlider from "@/ui/AppSlider.vue";

const props = defineProps<{ layers: Layer[] }>();
const { t } = useI18n();
const looked = useLayers();
const stage = useStage();
const { settings } = useMakeControl("layers");
const count = computed(() => Math.min(looked.shown, props.layers.length));
const last = computed(() => props.layers[count.value - 1]);
const note = computed(() => {
  if (!last.value) return t("layers.notes.bare");
  const kind = last.value.kind ?? settings.value?.material ?? "other";
  const film = { name: last.value.name };
  if (isPressed(kind)) return t(count.value < props.layers.length ? "layers.notes.pressShort" : "layers.notes.pressFull", film);
  if (kind === "adhesive vinyl") return t(count.value === 1 ? "layers.notes.stickFirst" : "layers.notes.stickOn", film);
  return t(kind === "card" ? "layers.notes.glue" : "layers.notes.other", film);
});

function show(value: number): void {
  looked.shown = value >= props.layers.length ? Infinity : value;
  if (stage.first !== "made_up") stage.second = "made_up";
}
</script>

<template>
  <div v-if="layers.length > 1" class="put-on">
    <AppSlider
      :label="t('layers.putOn')" :value="count" :min="0" :max="layers.length" :step="1" :low="t('layers.bareCloth')" :high="t('layers.allOn')" @move="show" @settle="show"
    />
    <p class="soft" role="status">{{ note }}</p>
  </div>
</template>

<style scoped>
.put-on { display: grid; gap: 4px; }
p { margin: 0; }
</style>
