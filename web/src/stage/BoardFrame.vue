<script setup lang="ts">
/** Around a board: what it is busy with or what went wrong, over it, and the buttons that look closer. */
import { useI18n } from "vue-i18n";

import { useJob } from "@/stores/job";
import AppButton from "@/ui/AppButton.vue";
import AppIcon from "@/ui/AppIcon.vue";

/** working: what is being done; stopped: what was stopped, with what goes on with it; error: what went wrong. */
defineProps<{ working: string; stopped: string; again: string; error: string; foot?: string }>();
const emit = defineEmits<{ again: []; zoom: [factor: number]; all: [] }>();
const { t } = useI18n();
const job = useJob();
</script>

<template>
  <div v-if="working" class="busy" role="status">
    <span>{{ working }}</span>
    <span v-if="job.fraction" class="bar"><i :style="{ width: `${Math.round(100 * job.fraction)}%` }" /></span>
    <AppButton small @click="job.stop()">{{ t("head.stop") }}</AppButton>
  </div>
  <div v-else-if="error" class="busy" role="alert"><span>{{ error }}</span></div>
  <div v-else-if="stopped" class="busy" role="status">
    <span>{{ stopped }}</span>
    <AppButton small @click="emit('again')">{{ again }}</AppButton>
  </div>
  <div class="foot">
    <span v-if="foot" class="number">{{ foot }}</span>
    <div class="tools">
      <button type="button" :title="t('stage.farther')" :aria-label="t('stage.farther')" @click="emit('zoom', 0.8)"><AppIcon name="farther" /></button>
      <button type="button" :title="t('stage.closer')" :aria-label="t('stage.closer')" @click="emit('zoom', 1.25)"><AppIcon name="closer" /></button>
      <button type="button" :title="t('stage.fit')" :aria-label="t('stage.fit')" @click="emit('all')"><AppIcon name="fit" /></button>
    </div>
  </div>
</template>

<style scoped>
.busy { position: absolute; top: 12px; left: 50%; transform: translateX(-50%); background: var(--paper); border: 1px solid var(--line); border-radius: 3px; padding: 8px 12px; display: flex; gap: 12px; align-items: center; max-width: 90%; }
.bar { width: 90px; height: 6px; background: var(--hover); border-radius: 3px; overflow: hidden; }
.bar i { display: block; height: 100%; background: var(--seam); }
.foot { position: absolute; left: 12px; right: 12px; bottom: 12px; display: flex; justify-content: space-between; align-items: end; pointer-events: none; }
.foot > * { background: var(--paper); border: 1px solid var(--line); border-radius: 3px; pointer-events: auto; }
.foot > span { padding: 5px 10px; font-size: 12.5px; }
.tools { display: flex; margin-left: auto; }
.tools button { border: 0; background: none; padding: 6px 8px; display: grid; cursor: pointer; color: var(--ink); }
.tools button:hover { background: var(--hover); }
</style>
