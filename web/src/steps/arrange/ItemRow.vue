<script setup lang="ts">
import { useI18n } from "vue-i18n";

import type { PictureItem } from "@/api/types";
import AppIcon from "@/ui/AppIcon.vue";
import AppText from "@/ui/AppText.vue";

defineProps<{ item: PictureItem; size: string; open: boolean; first: boolean; last: boolean }>();
defineEmits<{ open: []; rename: [name: string]; shift: [by: number]; out: [] }>();
const { t } = useI18n();
</script>

<template>
  <li :class="{ open }" @click="$emit('open')">
    <span class="words">
      <AppText class="name" :label="t('arrange.nameOf', { name: item.name })" :value="item.name" :longest="80" @settle="$emit('rename', $event)" />
      <small class="soft number">{{ size }}</small>
    </span>
    <span v-if="!(first && last)" class="acts">
      <button type="button" class="left" :disabled="first" :aria-label="t('arrange.earlier', { name: item.name })" @click="$emit('shift', -1)"><AppIcon name="up" /></button>
      <button type="button" class="right" :disabled="last" :aria-label="t('arrange.later', { name: item.name })" @click="$emit('shift', 1)"><AppIcon name="up" /></button>
      <button type="button" :aria-label="t('arrange.out', { name: item.name })" :title="t('arrange.out', { name: item.name })" @click="$emit('out')"><AppIcon name="bin" /></button>
    </span>
  </li>
</template>

<style scoped>
li { display: grid; grid-template-columns: minmax(0, 1fr) auto; gap: 8px; align-items: center; padding: 6px; }
li + li { border-top: 1px solid var(--line); }
li.open { box-shadow: inset 3px 0 0 var(--seam); }
.words { display: grid; min-width: 0; }
.name { border-color: transparent; background: transparent; font-weight: 700; padding: 1px 5px; width: 100%; box-shadow: none; text-overflow: ellipsis; }
.name:hover, .name:focus { border-color: var(--line); background: #fffdf8; }
small { padding-left: 6px; }
.acts { display: flex; }
.acts button { border: 0; background: none; padding: 4px; display: grid; cursor: pointer; border-radius: 2px; color: var(--ink); }
.acts button:hover:not(:disabled) { background: #e6dfcf; }
.acts button:disabled { color: #c4baa6; cursor: default; }
.left { transform: rotate(-90deg); }
.right { transform: rotate(90deg); }
</style>
