<script setup lang="ts">
defineProps<{ label: string; value: boolean }>();
const emit = defineEmits<{ settle: [value: boolean] }>();
</script>

<template>
  <label class="check">
    <input type="checkbox" :checked="value" @change="emit('settle', ($event.target as HTMLInputElement).checked)" />
    <span>{{ label }}</span>
  </label>
</template>

<style scoped>
.check { display: flex; gap: 8px; align-items: center; cursor: pointer; }
input { accent-color: var(--seam); width: 16px; height: 16px; }
</style>
