<script setup lang="ts">
import { useI18n } from "vue-i18n";

import type { Item } from "@/api/types";
import AppIcon from "@/ui/AppIcon.vue";
import AppText from "@/ui/AppText.vue";

defineProps<{ item: Item; size: string; picked: boolean; first: boolean; last: boolean }>();
defineEmits<{ pick: [further: boolean]; rename: [name: string]; shift: [by: number]; hide: []; out: [] }>();
const { t } = useI18n();
</script>

<template>
  <li :class="{ picked, hidden: item.hidden }" @click="$emit('pick', $event.shiftKey)">
    <button
      type="button" class="swatch" :class="item.kind" :style="{ background: item.kind === 'picture' ? undefined : item.made.colour }"
      :aria-pressed="picked" :aria-label="t('arrange.pick', { name: item.name })" @click.stop="$emit('pick', $event.shiftKey)"
    />
    <span class="words">
      <AppText class="name" :label="t('arrange.nameOf', { name: item.name })" :value="item.name" :longest="80" @settle="$emit('rename', $event)" />
      <small class="soft number">{{ item.hidden ? t("arrange.hiddenItem") : size }}<template v-if="item.place?.locked"> · {{ t("arrange.lockedItem") }}</template></small>
    </span>
    <span class="acts">
      <button type="button" :disabled="first" :aria-label="t('arrange.higher', { name: item.name })" @click.stop="$emit('shift', 1)"><AppIcon name="up" /></button>
      <button type="button" :disabled="last" :aria-label="t('arrange.lower', { name: item.name })" @click.stop="$emit('shift', -1)"><AppIcon name="down" /></button>
      <button type="button" :aria-label="t(item.hidden ? 'arrange.show' : 'arrange.hide', { name: item.name })" :title="t(item.hidden ? 'arrange.show' : 'arrange.hide', { name: item.name })" @click.stop="$emit('hide')"><AppIcon :name="item.hidden ? 'shut' : 'eye'" /></button>
      <button type="button" :aria-label="t('arrange.out', { name: item.name })" :title="t('arrange.out', { name: item.name })" @click.stop="$emit('out')"><AppIcon name="bin" /></button>
    </span>
  </li>
</template>

<style scoped>
li { display: grid; grid-template-columns: 12px minmax(0, 1fr) auto; gap: 6px; align-items: center; padding: 2px 4px 2px 6px; cursor: default; user-select: none; }
li + li { border-top: 1px solid var(--line); }
li.picked { background: var(--paper); box-shadow: inset 3px 0 0 var(--seam); }
li.hidden .words, li.hidden .swatch { opacity: 0.5; }
.swatch { width: 12px; height: 22px; padding: 0; border: 1px solid var(--edge); }
.swatch.picture { background: linear-gradient(135deg, #b3432b 0 34%, #f0c454 34% 67%, #2e5c7a 67%); }
.words { display: grid; min-width: 0; }
.name { border-color: transparent; background: transparent; font-weight: 700; padding: 1px 4px; width: 100%; box-shadow: none; text-overflow: ellipsis; }
li:not(.picked) .name { pointer-events: none; }
.name:hover, .name:focus { border-color: var(--line); background: var(--paper); }
small { padding-left: 5px; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.acts { display: flex; }
.acts button { border: 0; background: none; padding: 3px 2px; display: grid; cursor: pointer; border-radius: 2px; color: var(--ink); }
.acts button:hover:not(:disabled) { background: var(--hover); }
.acts button:disabled { color: var(--off); cursor: default; }
</style>
