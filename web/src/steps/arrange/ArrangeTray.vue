<script setup lang="ts">
/** The pictures of the make, how they lie together, and which of them stay. */
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { PictureItem } from "@/api/types";
import { useBringAnother } from "@/composables/useBringAnother";
import { useMakeControl } from "@/composables/useStepControl";
import { formatSize } from "@/core/units";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import AppButton from "@/ui/AppButton.vue";
import AppDialog from "@/ui/AppDialog.vue";
import AppSlider from "@/ui/AppSlider.vue";

import ItemRow from "./ItemRow.vue";

const { t } = useI18n();
const job = useJob();
const stage = useStage();
const { settings, move, settle } = useMakeControl("arrange");
const choose = useBringAnother();
const leaving = ref<PictureItem | null>(null);
const asking = ref(false);
const several = computed(() => job.items.length > 1);

function sizeOf(id: string): string {
  const found = job.result?.items.find((item) => item.id === id);
  return found ? formatSize(...found.size, stage.unit) : "";
}
function ask(item: PictureItem): void {
  leaving.value = item;
  asking.value = true;
}
async function takeOut(): Promise<void> {
  asking.value = false;
  if (leaving.value) await job.takeOutItem(leaving.value.id);
}
</script>

<template>
  <p class="soft">{{ several ? t("arrange.together", job.items.length) : t("arrange.alone") }}</p>
  <ol class="list" :aria-label="t('arrange.list')">
    <ItemRow
      v-for="(item, i) in job.items" :key="item.id" :item="item" :size="sizeOf(item.id)" :open="item.id === job.item?.id"
      :first="i === 0" :last="i === job.items.length - 1"
      @open="job.openItem(item.id)" @rename="job.renameItem(item.id, $event)" @shift="job.moveItem(item.id, i + $event)" @out="ask(item)"
    />
  </ol>
  <div><AppButton @click="choose()">{{ t("course.another") }}</AppButton></div>
  <AppSlider
    v-if="several && settings"
    :label="t('arrange.gap')" :value="settings.gap_mm" :min="0" :max="100" :step="0.5" :digits="1" unit="mm"
    :low="t('arrange.touching')" :high="t('arrange.wide')" @move="move({ gap_mm: $event })" @settle="settle({ gap_mm: $event })"
  />
  <p v-if="several" class="soft">{{ t("arrange.each") }}</p>
  <AppDialog v-model="asking" :title="t('arrange.outTitle')">
    <p>{{ t("arrange.outText", { name: leaving?.name ?? "" }) }}</p>
    <template #actions>
      <AppButton look="quiet" @click="asking = false">{{ t("app.cancel") }}</AppButton>
      <AppButton look="main" @click="takeOut">{{ t("arrange.outYes") }}</AppButton>
    </template>
  </AppDialog>
</template>

<style scoped>
.list { list-style: none; margin: 0; padding: 0; border: 1px solid var(--line); background: var(--card); }
</style>
