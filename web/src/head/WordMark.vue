<script setup lang="ts">
import { useI18n } from "vue-i18n";

const { t } = useI18n();
</script>

<template>
  <span class="mark">{{ t("app.name") }}<i aria-hidden="true" /></span>
</template>

<style scoped>
.mark { font: 700 21px var(--heading); letter-spacing: -0.01em; position: relative; padding: 0 2px; white-space: nowrap; }
.mark i { position: absolute; left: 50%; top: -16px; bottom: -16px; width: 2px; background: #d65a8e; transform: rotate(14deg); }
</style>
