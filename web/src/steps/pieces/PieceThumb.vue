<script setup lang="ts">
/** A piece as it is, as large as its place allows. */
import { computed } from "vue";

import type { PieceRow } from "@/api/types";
import { isHere, isWindow } from "@/core/pieces";

const props = defineProps<{ row: PieceRow }>();
const box = computed(() => {
  const [left = 0, top = 0, right = 1, bottom = 1] = props.row.box;
  const side = Math.max(right - left, bottom - top) * 1.12 || 1;
  return `${(left + right - side) / 2} ${(top + bottom - side) / 2} ${side} ${side}`;
});
const fill = computed(() => (isWindow(props.row) ? "#d8d1c1" : props.row.colour.slice(0, 7)));
</script>

<template>
  <svg :viewBox="box" width="34" height="34" aria-hidden="true" :class="{ gone: !isHere(row) }">
    <path :d="row.path" :fill="fill" fill-rule="evenodd" stroke="var(--frame)" stroke-width="1" vector-effect="non-scaling-stroke" />
  </svg>
</template>

<style scoped>
svg { background: var(--hover); }
.gone { opacity: 0.45; }
</style>
