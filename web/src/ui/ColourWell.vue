<script setup lang="ts">
/** A swatch that opens the system's colour chooser. */
defineProps<{ label: string; value: string }>();
const emit = defineEmits<{ move: [value: string]; settle: [value: string] }>();
const text = (event: Event): string => (event.target as HTMLInputElement).value;
</script>

<template>
  <input
    type="color"
    class="well"
    :value="value"
    :aria-label="label"
    :title="label"
    @input="emit('move', text($event))"
    @change="emit('settle', text($event))"
  />
</template>

<style scoped>
.well { width: 34px; height: 34px; padding: 0; border: 1px solid var(--edge); border-radius: 2px; background: none; cursor: pointer; }
.well::-webkit-color-swatch-wrapper { padding: 0; }
.well::-webkit-color-swatch { border: 0; border-radius: 1px; }
</style>
