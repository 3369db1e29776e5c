<script setup lang="ts" generic="T extends string">
import Select from "primevue/select";
import { computed, useId } from "vue";

/** above: the label stands above, where options are long. */
const props = defineProps<{ label: string; options: { value: T; label: string }[]; hideLabel?: boolean; above?: boolean }>();
const value = defineModel<T>({ required: true });
/** An empty value is one like any other here; the list takes it for none. */
const marked = computed({ get: () => `=${value.value}`, set: (next) => (value.value = next.slice(1) as T) });
const own = computed(() => props.options.map((option) => ({ ...option, value: `=${option.value}` })));
const id = useId();
</script>

<template>
  <div class="field" :class="{ bare: hideLabel || above }">
    <label :id="id" :class="{ 'visually-hidden': hideLabel }">{{ label }}</label>
    <Select
      v-model="marked"
      :options="own"
      option-value="value"
      option-label="label"
      :aria-labelledby="id"
      size="small"
      fluid
    />
  </div>
</template>

<style scoped>
.field { display: grid; grid-template-columns: fit-content(40%) minmax(0, 1fr); gap: 8px; align-items: center; }
.field.bare { grid-template-columns: minmax(0, 1fr); }
label { font-weight: 700; line-height: 1.2; }
</style>
