<script setup lang="ts" generic="T extends string">
/** A few choices side by side, one of them taken. */
import SelectButton from "primevue/selectbutton";
import { useId } from "vue";

defineProps<{ label: string; options: { value: T; label: string }[] }>();
const value = defineModel<T>({ required: true });
const id = useId();
</script>

<template>
  <div class="field">
    <span :id="id" class="label">{{ label }}</span>
    <SelectButton
      v-model="value"
      :options="options"
      option-value="value"
      option-label="label"
      :allow-empty="false"
      :aria-labelledby="id"
      size="small"
      class="choice"
    />
  </div>
</template>

<style scoped>
.field { display: grid; gap: 4px; }
.label { font-weight: 700; }
.choice { display: flex; }
.choice :deep(.p-togglebutton) { flex: 1; padding: 2px; }
.choice :deep(.p-togglebutton-content) { padding: 2px 8px; }
</style>
