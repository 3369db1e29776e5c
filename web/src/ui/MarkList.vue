<script setup lang="ts">
/** What was done by hand, mark by mark: each is looked at by pointing, and can be taken out. */
import AppButton from "./AppButton.vue";

export interface ListedMark {
  number: number;
  colour: string;
  text: string;
}
defineProps<{ marks: ListedMark[]; label: string; out: string; outLabel: (number: number) => string }>();
const emit = defineEmits<{ look: [at: number | null]; out: [at: number] }>();
</script>

<template>
  <ul v-if="marks.length" :aria-label="label">
    <li v-for="(mark, at) in marks" :key="mark.number" @pointerenter="emit('look', at)" @pointerleave="emit('look', null)">
      <i :style="{ background: mark.colour }" />{{ mark.number }}. {{ mark.text }}
      <AppButton small look="quiet" :aria-label="outLabel(mark.number)" @click="emit('out', at); emit('look', null)">{{ out }}</AppButton>
    </li>
  </ul>
</template>

<style scoped>
ul { list-style: none; margin: 0; padding: 0; font-size: 0.86rem; max-height: 190px; overflow-y: auto; }
li { display: flex; align-items: center; gap: 6px; }
li i { width: 10px; height: 10px; border-radius: 50%; }
li button { margin-left: auto; }
</style>
