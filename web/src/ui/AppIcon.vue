<script setup lang="ts">
import { ICONS, type IconName } from "./icons";

defineProps<{ name: IconName }>();
</script>

<template>
  <svg width="18" height="18" viewBox="0 0 18 18" aria-hidden="true" fill="none" stroke="currentColor" stroke-width="1.5" stroke-linecap="round" stroke-linejoin="round">
    <path :d="ICONS[name]" />
  </svg>
</template>
