<script setup lang="ts">
/** A length in the person's unit, kept in mm. */
import InputNumber from "primevue/inputnumber";
import { computed, useId } from "vue";

import { useTouched } from "@/composables/useTouched";
import { fromUnit, toUnit, type Unit } from "@/core/units";

const props = defineProps<{ label: string; mm: number; unit: Unit; digits?: number }>();
const emit = defineEmits<{ settle: [mm: number] }>();
const id = useId();
const most = computed(() => (props.digits ?? 1) + (props.unit === "mm" ? 0 : 1));
const touched = useTouched(() => toUnit(props.mm, props.unit), () => most.value);

function onTyped(value: number | null | undefined | string): void {
  if (typeof value !== "number" || !touched.take(value)) return;
  const mm = fromUnit(value, props.unit);
  if (Math.abs(mm - props.mm) > 0.005 * (props.unit === "in" ? 25.4 : 1) && mm > 0) emit("settle", mm);
}
</script>

<template>
  <div class="field">
    <label :for="id">{{ label }}</label>
    <InputNumber
      :input-id="id"
      :model-value="toUnit(mm, unit)"
      :min-fraction-digits="digits ?? (unit === 'mm' ? 1 : 2)"
      :max-fraction-digits="most"
      :use-grouping="false"
      size="small"
      fluid
      @focus="touched.focus"
      @input="touched.input"
      @update:model-value="onTyped"
    />
  </div>
</template>

<style scoped>
.field { display: grid; gap: 6px; min-width: 0; }
label { font-weight: 700; }
</style>
