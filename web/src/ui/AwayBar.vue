<script setup lang="ts">
/** A quiet bar at the foot of the window while the server does not answer. */
import { useI18n } from "vue-i18n";

import { isAway } from "@/api/client";
import { useJob } from "@/stores/job";

const { t } = useI18n();
const job = useJob();
</script>

<template>
  <p v-if="isAway || job.waiting" class="away" role="status">{{ job.unsent ? t("errors.waiting", job.unsent) : t("errors.away") }}</p>
</template>

<style scoped>
.away { position: fixed; left: 50%; bottom: 10px; transform: translateX(-50%); z-index: 2000; width: max-content; max-width: calc(100% - 40px); background: var(--head); color: var(--on-head); padding: 7px 16px; border-radius: 3px; box-shadow: 0 3px 12px rgb(0 0 0 / 0.3); }
</style>
