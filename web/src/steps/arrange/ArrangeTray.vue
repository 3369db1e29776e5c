<script setup lang="ts">
/** The items of the make: what is brought in, what each one does to those below, and how they lie. */
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Item } from "@/api/types";
import { useMakeControl } from "@/composables/useStepControl";
import { formatSize } from "@/core/units";
import { useArrange } from "@/stores/arrange";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import AppButton from "@/ui/AppButton.vue";
import AppDialog from "@/ui/AppDialog.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSlider from "@/ui/AppSlider.vue";

import AddItems from "./AddItems.vue";
import AlignControls from "./AlignControls.vue";
import BorderControls from "./BorderControls.vue";
import DrawnControls from "./DrawnControls.vue";
import ItemRow from "./ItemRow.vue";
import LetteringControls from "./LetteringControls.vue";
import LinesControls from "./LinesControls.vue";
import PartSentence from "./PartSentence.vue";
import PlaceControls from "./PlaceControls.vue";
import ShapeControls from "./ShapeControls.vue";

const { t } = useI18n();
const job = useJob();
const stage = useStage();
const arrange = useArrange();
const { settings, move, settle } = useMakeControl("arrange");
const leaving = ref<Item | null>(null);
const asking = ref(false);
/** Pictures that nobody has placed lie side by side. */
const inRow = computed(() => job.pictures.filter((item) => item.place?.x_mm == null).length > 1);
const topmostFirst = computed(() => [...job.items].reverse());
const only = computed(() => arrange.only);
/** What is worth knowing of the picked item. */
const remarks = computed(() =>
  (job.result?.findings ?? []).filter(({ item, code }) => item === only.value?.id && ["thin_lettering", "part_unbound"].includes(code)),
);

function sizeOf(id: string): string {
  const found = arrange.resultOf(id);
  return found ? formatSize(...found.size, stage.unit) : "";
}
function pick(item: Item, further: boolean): void {
  arrange.toggle(item.id, further);
  if (item.kind === "picture") job.openItem(item.id);
}
function ask(item: Item): void {
  leaving.value = item;
  asking.value = true;
}
async function takeOut(): Promise<void> {
  asking.value = false;
  if (leaving.value) await job.takeOutItem(leaving.value.id);
}
</script>

<template>
  <p v-if="job.items.length === 1" class="soft">{{ t("arrange.lead") }}</p>
  <AddItems />
  <ol class="list" :aria-label="t('arrange.list')">
    <ItemRow
      v-for="(item, i) in topmostFirst" :key="item.id" :item="item" :size="sizeOf(item.id)" :picked="arrange.pickedIds.includes(item.id)"
      :first="i === 0" :last="i === job.items.length - 1"
      @pick="pick(item, $event)" @rename="job.renameItem(item.id, $event)" @shift="job.moveItem(item.id, job.items.length - 1 - i + $event)"
      @hide="job.changeItems({ [item.id]: { hidden: !item.hidden } }, item.hidden ? 'shown' : 'hidden')" @out="ask(item)"
    />
  </ol>
  <template v-if="only">
    <AppNotice v-for="{ code, details } in remarks" :key="code" kind="note">{{ t(`findings.${code}`, details) }}</AppNotice>
    <LetteringControls v-if="only.kind === 'lettering'" :key="only.id" />
    <ShapeControls v-else-if="only.kind === 'shape'" :key="only.id" />
    <DrawnControls v-else-if="only.kind === 'drawn'" :key="only.id" />
    <LinesControls v-else-if="only.kind === 'lines'" :key="only.id" />
    <BorderControls v-else-if="only.kind === 'border'" :key="only.id" />
    <PartSentence v-if="only.kind !== 'border'" :key="`part-${only.id}`" :item="only" />
    <PlaceControls v-if="only.kind !== 'border'" :key="`place-${only.id}`" :item="only" />
  </template>
  <AlignControls v-if="arrange.moving.length" />
  <AppSlider
    v-if="inRow && settings && !only"
    :label="t('arrange.gap')" :value="settings.gap_mm" :min="0" :max="100" :step="0.5" :digits="1" unit="mm"
    :low="t('arrange.touching')" :high="t('arrange.wide')" @move="move({ gap_mm: $event })" @settle="settle({ gap_mm: $event })"
  />
  <AppDialog v-model="asking" :title="t('arrange.outTitle')">
    <p>{{ t("arrange.outText", { name: leaving?.name ?? "" }) }}</p>
    <template #actions>
      <AppButton look="quiet" @click="asking = false">{{ t("app.cancel") }}</AppButton>
      <AppButton look="main" @click="takeOut">{{ t("arrange.outYes") }}</AppButton>
    </template>
  </AppDialog>
</template>

<style scoped>
.list { list-style: none; margin: 0; padding: 0; border: 1px solid var(--line); background: var(--card); max-height: 216px; overflow-y: auto; }
</style>
