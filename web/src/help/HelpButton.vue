<script setup lang="ts">
import { useI18n } from "vue-i18n";

import { helpAsked } from "./useHelp";

const { t } = useI18n();
</script>

<template>
  <button type="button" class="help" :aria-label="t('help.open')" :title="t('help.open')" aria-keyshortcuts="?" @click="helpAsked = true">
    <span aria-hidden="true">?</span>
  </button>
</template>

<style scoped>
.help { border: 1px solid #66727a; background: none; color: inherit; width: 28px; height: 28px; border-radius: 50%; cursor: pointer; font-weight: 700; flex: none; }
.help:hover { border-color: var(--on-head); }
.help:focus-visible { outline-color: #f0a9c8; }
</style>
