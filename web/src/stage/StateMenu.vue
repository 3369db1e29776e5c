<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { STATES, type StageState } from "@/core/course";
import { useLayers } from "@/stores/layers";
import AppSelect from "@/ui/AppSelect.vue";

defineProps<{ label: string }>();
const state = defineModel<StageState>({ required: true });
const { t } = useI18n();
const layers = useLayers();
const options = computed(() =>
  STATES.filter((value) => value !== "variant" || layers.variants.length).map((value) => ({
    value, label: value === "variant" && layers.chosen ? t("states.cloth", { name: layers.chosen.cloth }) : t(`states.${value}`),
  })),
);
</script>

<template>
  <div><AppSelect v-model="state" :label="label" :options="options" hide-label /></div>
</template>
