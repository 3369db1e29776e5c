<script setup lang="ts">
/** Some lines of text. `move` with every key, `settle` when it is left. */
import Textarea from "primevue/textarea";
import { useId } from "vue";

defineProps<{ label: string; longest: number }>();
defineEmits<{ move: []; settle: [] }>();
const text = defineModel<string>({ required: true });
const id = useId();
</script>

<template>
  <div class="field">
    <label :for="id">{{ label }}</label>
    <Textarea :id="id" v-model="text" rows="2" auto-resize :maxlength="longest" fluid @update:model-value="$emit('move')" @blur="$emit('settle')" @keydown.stop />
  </div>
</template>

<style scoped>
.field { display: grid; gap: 6px; }
label { font-weight: 700; }
</style>
