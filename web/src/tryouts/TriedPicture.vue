<script setup lang="ts">
/** A try-out as it would be cut, in the frame of its picture, so that all of them lie in register. */
import type { Tried } from "@/api/types";

defineProps<{ tried: Tried }>();
</script>

<template>
  <svg :viewBox="tried.frame.join(' ')" preserveAspectRatio="xMidYMid meet" aria-hidden="true">
    <path v-for="(layer, i) in tried.layers" :key="i" :d="layer.path" :fill="layer.colour" fill-rule="evenodd" />
  </svg>
</template>
