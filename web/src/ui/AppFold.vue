<script setup lang="ts">
/** What is used seldom, behind its title. It remembers whether it was open; opened: at first. */
import { ref } from "vue";

const props = defineProps<{ title: string; name: string; note?: string; opened?: boolean }>();
const KEY = `bisectum.fold.${props.name}`;
const open = ref((localStorage.getItem(KEY) ?? (props.opened ? "open" : "shut")) === "open");

function onToggle(event: Event): void {
  open.value = (event.target as HTMLDetailsElement).open;
  localStorage.setItem(KEY, open.value ? "open" : "shut");
}
</script>

<template>
  <details :open="open" class="fold" @toggle="onToggle">
    <summary><b>{{ title }}</b><small v-if="note" class="soft">{{ note }}</small></summary>
    <div v-if="open" class="inside"><slot /></div>
  </details>
</template>

<style scoped>
.fold { border-top: 1px dashed var(--stitch); padding-top: 4px; }
summary { cursor: pointer; display: flex; justify-content: space-between; gap: 8px; align-items: baseline; list-style-position: inside; padding: 1px 0; }
summary::before { content: "▸"; color: var(--soft); margin-right: -2px; }
.fold[open] > summary::before { content: "▾"; }
summary::-webkit-details-marker { display: none; }
summary { list-style: none; }
summary b { flex: 1; }
small { text-align: right; }
.inside { display: grid; grid-template-columns: minmax(0, 1fr); gap: 11px; padding: 8px 0 4px; }
</style>
