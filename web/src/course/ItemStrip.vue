<script setup lang="ts">
/** The items of the job, small, the open one framed; and the way to bring in another picture. */
import { useI18n } from "vue-i18n";

import { useBringAnother } from "@/composables/useBringAnother";
import type { StageImages } from "@/composables/useStageImages";
import type { Item } from "@/api/types";
import { useArrange } from "@/stores/arrange";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";

import ItemThumb from "./ItemThumb.vue";

defineProps<{ images: StageImages }>();
const { t } = useI18n();
const job = useJob();
const stage = useStage();
const arrange = useArrange();
const choose = useBringAnother();

/** A picture's steps are opened; what is no picture is picked where items are arranged. */
function open(item: Item): void {
  if (item.kind === "picture") job.openItem(item.id);
  else stage.openStep("arrange");
  if (arrange.active) arrange.pick([item.id]);
}
const isOpen = (item: Item): boolean => (arrange.active && arrange.pickedIds.length ? arrange.pickedIds.includes(item.id) : item.id === job.item?.id);
</script>

<template>
  <div class="strip" role="group" :aria-label="t('course.items')">
    <button
      v-for="item in job.items" :key="item.id" type="button" class="item" :class="{ on: isOpen(item), hidden: item.hidden }"
      :aria-pressed="isOpen(item)" :aria-label="t('course.openItem', { name: item.name })" :title="item.name"
      @click="open(item)"
    >
      <ItemThumb :item-id="item.id" :images="images" />
    </button>
    <button type="button" class="item plus" :aria-label="t('course.another')" :title="t('course.another')" @click="choose()">+</button>
  </div>
</template>

<style scoped>
.strip { display: flex; flex-wrap: wrap; gap: 5px; padding: 3px 8px 9px 4px; max-height: 118px; overflow-y: auto; }
.item { width: 33px; height: 33px; padding: 0; border: 1px solid var(--line); background: var(--card); cursor: pointer; display: grid; place-items: center; }
.item:hover { border-color: var(--stitch); }
.item.on { outline: 2px solid var(--seam); outline-offset: 1px; }
.item.hidden { opacity: 0.4; }
.plus { border: 1.5px dashed var(--stitch); background: none; font: 400 18px var(--text); color: var(--ink); }
@media (max-width: 1120px) { .strip { justify-content: center; padding: 3px 6px 8px 0; } .item { width: 31px; height: 31px; } }
</style>
