<script setup lang="ts">
/** A sentence that matters: something went wrong, or should be known. */
defineProps<{ kind: "error" | "note"; title?: string; closeLabel?: string }>();
defineEmits<{ close: [] }>();
</script>

<template>
  <div class="notice" :class="kind" :role="kind === 'error' ? 'alert' : 'note'">
    <div>
      <b v-if="title">{{ title }}</b>
      <p><slot /></p>
      <div v-if="$slots.actions" class="actions"><slot name="actions" /></div>
    </div>
    <button v-if="closeLabel" type="button" class="close" :aria-label="closeLabel" @click="$emit('close')">
      <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true"><path d="M2 2l10 10M12 2 2 12" stroke="currentColor" stroke-width="1.6" fill="none" /></svg>
    </button>
  </div>
</template>

<style scoped>
.notice { display: flex; gap: 12px; justify-content: space-between; padding: 10px 12px; background: var(--card); border: 1px solid var(--line); border-left: 4px solid var(--stitch); border-radius: 3px; font-size: 13px; }
.notice.error { border-left-color: var(--seam); box-shadow: 0 4px 14px rgb(37 48 58 / 0.18); font-size: 14px; }
.close { border: 0; background: none; cursor: pointer; padding: 2px 4px; align-self: start; color: var(--soft); }
.actions { margin-top: 8px; display: flex; flex-wrap: wrap; gap: 6px; }
</style>
