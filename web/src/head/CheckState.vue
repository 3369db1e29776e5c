<script setup lang="ts">
/** What the cut check has to say, in a few words; a click leads to it. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useCheck } from "@/stores/check";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";

const { t } = useI18n();
const check = useCheck();
const stage = useStage();
const job = useJob();
const count = computed(() => check.found?.to_look_at ?? 0);
/** A job that cannot be worked out, or was stopped, is not checked. */
const isOff = computed(() => ["failed", "stopped"].includes(job.work) || check.error !== null);
const words = computed(() => (isOff.value ? t("check.headOff") : !check.found || !check.isFresh ? t("check.headWorking") : count.value ? t("check.headCount", count.value) : t("check.headClean")));
</script>

<template>
  <button type="button" class="state number" :class="{ some: count > 0 && check.isFresh, clean: check.found && check.isFresh && !count }" :aria-label="t('check.headLabel', { words })" @click="stage.openStep('check')">
    {{ words }}
  </button>
</template>

<style scoped>
.state { border: 1px solid transparent; background: none; color: var(--soft-on-head); border-radius: 3px; padding: 6px 10px; cursor: pointer; white-space: nowrap; min-width: 104px; text-align: center; }
.state:hover { border-color: #66727a; }
.some { color: #ffd9a0; font-weight: 700; }
.some::before { content: ""; display: inline-block; width: 9px; height: 9px; border: 2px solid currentColor; border-radius: 50%; margin-right: 7px; }
.clean { color: #b9dfc9; }
.clean::before { content: "✓ "; }
@media (max-width: 1120px) { .state { min-width: 0; } }
</style>
