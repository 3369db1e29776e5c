<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { STATES, type StageState } from "@/core/course";
import AppSelect from "@/ui/AppSelect.vue";

defineProps<{ label: string }>();
const state = defineModel<StageState>({ required: true });
const { t } = useI18n();
const options = computed(() => STATES.map((value) => ({ value, label: t(`states.${value}`) })));
</script>

<template>
  <div><AppSelect v-model="state" :label="label" :options="options" hide-label /></div>
</template>
