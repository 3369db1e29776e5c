<script setup lang="ts">
import { useI18n } from "vue-i18n";

import type { Layer } from "@/api/types";
import AppIcon from "@/ui/AppIcon.vue";
import AppText from "@/ui/AppText.vue";
import ColourWell from "@/ui/ColourWell.vue";

defineProps<{ layer: Layer; first: boolean; last: boolean }>();
defineEmits<{ rename: [name: string]; tryColour: [colour: string]; colour: [colour: string]; shift: [by: number] }>();
const { t } = useI18n();
</script>

<template>
  <li>
    <ColourWell :label="t('layers.colour', { name: layer.name })" :value="layer.colour" @move="$emit('tryColour', $event)" @settle="$emit('colour', $event)" />
    <span class="words">
      <AppText class="name" :label="t('layers.name', { name: layer.name })" :value="layer.name" :longest="60" @settle="$emit('rename', $event)" />
      <small class="soft">{{ t("layers.facts", { pieces: t("colours.pieces", layer.pieces), nodes: layer.nodes }) }}</small>
    </span>
    <span class="moves">
      <button type="button" :disabled="first" :aria-label="t('layers.up', { name: layer.name })" @click="$emit('shift', -1)"><AppIcon name="up" /></button>
      <button type="button" :disabled="last" :aria-label="t('layers.down', { name: layer.name })" @click="$emit('shift', 1)"><AppIcon name="down" /></button>
    </span>
  </li>
</template>

<style scoped>
li { display: grid; grid-template-columns: 34px minmax(0, 1fr) auto; gap: 8px; align-items: center; padding: 6px; }
li + li { border-top: 1px solid var(--line); }
.words { display: grid; min-width: 0; }
.name { border-color: transparent; background: transparent; font-weight: 700; padding: 1px 5px; width: 100%; box-shadow: none; text-overflow: ellipsis; }
.name:hover, .name:focus { border-color: var(--line); background: #fffdf8; }
small { padding-left: 6px; }
.moves { display: grid; }
.moves button { border: 0; background: none; padding: 0 4px; display: grid; cursor: pointer; border-radius: 2px; }
.moves button:hover:not(:disabled) { background: #e6dfcf; }
.moves button:disabled { color: #c4baa6; cursor: default; }
</style>
