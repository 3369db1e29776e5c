<script setup lang="ts">
import { useI18n } from "vue-i18n";

import ColourWell from "@/ui/ColourWell.vue";

defineProps<{ value: string }>();
const emit = defineEmits<{ move: [value: string]; settle: [value: string] }>();
const { t } = useI18n();
const BASES = { light: "#ffffff", dark: "#23272e", glass: "#1c2a44", kraft: "#c29a6b" } as const;
</script>

<template>
  <div class="field" role="group" :aria-label="t('layers.base')">
    <div class="bases">
      <button
        v-for="(colour, name) in BASES"
        :key="name"
        type="button"
        :style="{ background: colour }"
        :class="{ on: value === colour }"
        :aria-pressed="value === colour"
        :aria-label="t(`layers.bases.${name}`)"
        :title="t(`layers.bases.${name}`)"
        @click="emit('settle', colour)"
      />
      <ColourWell :label="t('layers.base')" :value="value" @move="emit('move', $event)" @settle="emit('settle', $event)" />
    </div>
  </div>
</template>

<style scoped>
.field { display: grid; gap: 6px; }
.bases { display: flex; gap: 8px; align-items: center; }
.bases button { width: 34px; height: 34px; border: 1px solid var(--edge); border-radius: 2px; cursor: pointer; }
.bases button.on { outline: 2px solid var(--seam); outline-offset: 2px; }
</style>
