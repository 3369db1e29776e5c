<script setup lang="ts">
import Button from "primevue/button";

withDefaults(defineProps<{ look?: "main" | "plain" | "quiet"; disabled?: boolean; small?: boolean; pressed?: boolean }>(), { pressed: undefined });
</script>

<template>
  <Button
    type="button"
    :disabled="disabled"
    :severity="look === 'main' ? undefined : 'secondary'"
    :variant="look === 'quiet' ? 'text' : look === 'main' ? undefined : 'outlined'"
    class="button"
    :class="{ small, pressed, quiet: look === 'quiet' }"
    :aria-pressed="pressed"
  >
    <slot />
  </Button>
</template>

<style scoped>
.button { font-weight: 700; padding: 7px 14px; gap: 8px; }
.button.quiet { color: var(--ink); text-decoration: underline; text-decoration-color: var(--stitch); text-underline-offset: 3px; }
.button.pressed, .button.pressed:hover { background: var(--ink) !important; border-color: var(--ink); color: var(--card) !important; }
.small { padding: 4px 9px; font-size: 0.86rem; }
</style>
