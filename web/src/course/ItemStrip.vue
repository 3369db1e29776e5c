<script setup lang="ts">
/** The pictures of the job, small, the open one framed; and the way to bring in another. */
import { useI18n } from "vue-i18n";

import { useBringAnother } from "@/composables/useBringAnother";
import type { StageImages } from "@/composables/useStageImages";
import { useJob } from "@/stores/job";

import ItemThumb from "./ItemThumb.vue";

defineProps<{ images: StageImages }>();
const { t } = useI18n();
const job = useJob();
const choose = useBringAnother();
</script>

<template>
  <div class="strip" role="group" :aria-label="t('course.items')">
    <button
      v-for="item in job.items" :key="item.id" type="button" class="item" :class="{ on: item.id === job.item?.id }"
      :aria-pressed="item.id === job.item?.id" :aria-label="t('course.openItem', { name: item.name })" :title="item.name"
      @click="job.openItem(item.id)"
    >
      <ItemThumb :item-id="item.id" :images="images" />
    </button>
    <button type="button" class="item plus" :aria-label="t('course.another')" :title="t('course.another')" @click="choose()">+</button>
  </div>
</template>

<style scoped>
.strip { display: flex; flex-wrap: wrap; gap: 6px; padding: 3px 12px 10px 4px; max-height: 138px; overflow-y: auto; }
.item { width: 40px; height: 40px; padding: 0; border: 1px solid var(--line); background: var(--card); cursor: pointer; display: grid; place-items: center; }
.item:hover { border-color: var(--stitch); }
.item.on { outline: 2px solid var(--seam); outline-offset: 1px; }
.plus { border: 1.5px dashed var(--stitch); background: none; font: 400 20px var(--text); color: var(--ink); }
@media (max-width: 1120px) { .strip { justify-content: center; padding: 3px 6px 8px 0; } .item { width: 34px; height: 34px; } }
</style>
