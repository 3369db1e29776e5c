<script setup lang="ts">
/** A number that is typed. */
import InputNumber from "primevue/inputnumber";
import { useId } from "vue";

import { useTouched } from "@/composables/useTouched";

const props = defineProps<{ label: string; value: number; min: number; max: number; digits?: number; suffix?: string; disabled?: boolean }>();
const emit = defineEmits<{ settle: [value: number] }>();
const id = useId();
const touched = useTouched(() => props.value, () => props.digits ?? 0);

function onTyped(next: number | null | undefined | string): void {
  if (typeof next === "number" && touched.take(next) && next !== props.value) emit("settle", next);
}
</script>

<template>
  <div class="field">
    <label :for="id">{{ label }}</label>
    <InputNumber
      :input-id="id" :model-value="value" :min="min" :max="max" :max-fraction-digits="digits ?? 0" :suffix="suffix" :use-grouping="false" :disabled="disabled"
      size="small" fluid @focus="touched.focus" @input="touched.input" @update:model-value="onTyped"
    />
  </div>
</template>

<style scoped>
.field { display: grid; gap: 3px; min-width: 0; }
label { font-weight: 700; }
</style>
