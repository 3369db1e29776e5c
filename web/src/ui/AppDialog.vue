<script setup lang="ts">
import Dialog from "primevue/dialog";

defineProps<{ title: string; wide?: boolean }>();
const shown = defineModel<boolean>({ required: true });
</script>

<template>
  <Dialog v-model:visible="shown" modal dismissable-mask :header="title" :draggable="false" :class="['dialog', { wide }]">
    <slot />
    <template v-if="$slots.actions" #footer><slot name="actions" /></template>
  </Dialog>
</template>

<style>
.dialog { width: min(440px, 92vw); }
.dialog.wide { width: min(960px, 96vw); }
.dialog .p-dialog-title { font: 700 20px var(--heading); }
</style>
