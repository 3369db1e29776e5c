<script setup lang="ts">
import Button from "primevue/button";

defineProps<{ look?: "main" | "plain" | "quiet"; disabled?: boolean; small?: boolean }>();
</script>

<template>
  <Button
    type="button"
    :disabled="disabled"
    :severity="look === 'main' ? undefined : 'secondary'"
    :variant="look === 'quiet' ? 'text' : look === 'main' ? undefined : 'outlined'"
    class="button"
    :class="{ small }"
  >
    <slot />
  </Button>
</template>

<style scoped>
.button { font-weight: 700; padding: 7px 14px; gap: 8px; }
.small { padding: 4px 9px; font-size: 0.86rem; }
</style>
