<script setup lang="ts" generic="T extends string">
import Select from "primevue/select";
import { useId } from "vue";

defineProps<{ label: string; options: { value: T; label: string }[]; hideLabel?: boolean }>();
const value = defineModel<T>({ required: true });
const id = useId();
</script>

<template>
  <div class="field">
    <label :id="id" :class="{ 'visually-hidden': hideLabel }">{{ label }}</label>
    <Select
      v-model="value"
      :options="options"
      option-value="value"
      option-label="label"
      :aria-labelledby="id"
      size="small"
      fluid
    />
  </div>
</template>

<style scoped>
.field { display: grid; grid-template-columns: minmax(0, 1fr); gap: 6px; }
label { font-weight: 700; }
</style>
