<script setup lang="ts">
/** Edges and middles brought to one line: of several items to each other, of one to the make. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useArrange } from "@/stores/arrange";
import AppButton from "@/ui/AppButton.vue";

const { t } = useI18n();
const arrange = useArrange();
const several = computed(() => arrange.pickedIds.length > 1);
const SIDES = ["left", "middle", "right", "top", "centre", "bottom"] as const;
</script>

<template>
  <div class="group">
    <h3 v-if="several">{{ t("arrange.several.title", { count: arrange.pickedIds.length }) }}</h3>
    <span class="label">{{ t(several ? "arrange.several.align" : "arrange.several.alignOne") }}</span>
    <div class="acts">
      <AppButton v-for="side in SIDES" :key="side" small @click="arrange.align(side)">{{ t(`arrange.several.${side}`) }}</AppButton>
    </div>
    <div v-if="arrange.pickedIds.length === 2">
      <AppButton small :pressed="arrange.comparing" @click="arrange.comparing = !arrange.comparing">{{ t("arrange.several.compare") }}</AppButton>
    </div>
    <template v-if="arrange.moving.length > 2">
      <span class="label">{{ t("arrange.several.spread") }}</span>
      <div class="acts">
        <AppButton small @click="arrange.spread(true)">{{ t("arrange.several.across") }}</AppButton>
        <AppButton small @click="arrange.spread(false)">{{ t("arrange.several.down") }}</AppButton>
      </div>
    </template>
  </div>
</template>

<style scoped>
.group { display: grid; gap: 8px; border-top: 1px dashed var(--stitch); padding-top: 12px; }
h3 { margin: 0; font: 600 15px var(--heading); }
.label { font-weight: 700; }
.acts { display: flex; flex-wrap: wrap; gap: 5px; }
</style>
