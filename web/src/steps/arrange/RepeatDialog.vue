<script setup lang="ts">
/** Copies of an item in a row, a grid or a circle. */
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Item } from "@/api/types";
import type { Frame } from "@/core/arrange";
import { repeated, type Repeat } from "@/core/repeat";
import { useArrange } from "@/stores/arrange";
import { useJob } from "@/stores/job";
import AppButton from "@/ui/AppButton.vue";
import AppCheck from "@/ui/AppCheck.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppDialog from "@/ui/AppDialog.vue";
import AppSlider from "@/ui/AppSlider.vue";

const props = defineProps<{ item: Item; frame: Frame }>();
const shown = defineModel<boolean>({ required: true });
const { t } = useI18n();
const job = useJob();
const arrange = useArrange();
const how = ref<Repeat["how"]>("row");
const [count, rows, gap, radius, along] = [ref(3), ref(2), ref(5), ref(40), ref(true)];
const hows = (["row", "grid", "circle"] as const).map((value) => ({ value, label: t(`arrange.repeat.${value}`) }));
const room = computed(() => Math.max(2, 51 - job.items.length));

async function make(): Promise<void> {
  shown.value = false;
  const moves = repeated(props.frame, { how: how.value, count: count.value, rows: rows.value, gap: gap.value, radius: radius.value, along: along.value });
  await arrange.copy(props.item.id, moves);
}
</script>

<template>
  <AppDialog v-model="shown" :title="t('arrange.repeat.title', { name: item.name })">
    <div class="fields">
      <AppChoice v-model="how" :label="t('arrange.repeat.how')" :options="hows" />
      <AppSlider :label="t('arrange.repeat.count')" :value="count" :min="2" :max="Math.min(room, 30)" :step="1" :low="t('arrange.shape.few')" :high="t('arrange.shape.many')" @move="count = $event" @settle="count = $event" />
      <AppSlider v-if="how === 'grid'" :label="t('arrange.repeat.rows')" :value="rows" :min="1" :max="10" :step="1" :low="t('arrange.shape.few')" :high="t('arrange.shape.many')" @move="rows = $event" @settle="rows = $event" />
      <AppSlider v-if="how !== 'circle'" :label="t('arrange.repeat.gap')" :value="gap" :min="0" :max="50" :step="0.5" :digits="1" unit="mm" :low="t('arrange.touching')" :high="t('arrange.wide')" @move="gap = $event" @settle="gap = $event" />
      <template v-else>
        <AppSlider :label="t('arrange.repeat.radius')" :value="radius" :min="5" :max="300" :step="1" unit="mm" ratio :low="t('arrange.letter.small')" :high="t('arrange.letter.large')" @move="radius = $event" @settle="radius = $event" />
        <AppCheck :label="t('arrange.repeat.turned')" :value="along" @settle="along = $event" />
      </template>
    </div>
    <template #actions>
      <AppButton look="quiet" @click="shown = false">{{ t("app.cancel") }}</AppButton>
      <AppButton look="main" @click="make">{{ t("arrange.repeat.make") }}</AppButton>
    </template>
  </AppDialog>
</template>

<style scoped>
.fields { display: grid; gap: 16px; }
</style>
