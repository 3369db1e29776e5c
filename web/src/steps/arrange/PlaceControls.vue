<script setup lang="ts">
/** Where an item lies, how large it is, and copies of it. */
import { computed, reactive, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Item } from "@/api/types";
import { NO_MOVE, type Frame } from "@/core/arrange";
import { formatSize } from "@/core/units";
import { useArrange } from "@/stores/arrange";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import AppButton from "@/ui/AppButton.vue";
import AppCheck from "@/ui/AppCheck.vue";
import AppFold from "@/ui/AppFold.vue";
import AppSlider from "@/ui/AppSlider.vue";
import SizeField from "@/ui/SizeField.vue";

import RepeatDialog from "./RepeatDialog.vue";

const BESIDE_MM = 6; // a copy lies so far to the lower right
const props = defineProps<{ item: Item }>();
const { t } = useI18n();
const arrange = useArrange();
const job = useJob();
const stage = useStage();
const repeating = ref(false);
const frame = computed<Frame | null>(() => arrange.frameOf(props.item.id));
const locked = computed(() => props.item.place?.locked ?? false);
const turn = computed(() => { const now = props.item.place?.turn_deg ?? 0; return now > 180 ? now - 360 : now; });

const to = (typed: { x?: number; y?: number; width?: number; height?: number }, did: "moved" | "sized"): void =>
  void job.moveItems({ act: "to", item: props.item.id, ...typed }, did);
/** A frame of a typed size that the item is to fit into, as large as it can be. */
const room = reactive({ width: Math.round(job.result?.width_mm ?? 100), height: Math.round(job.result?.height_mm ?? 100) });
const fitIn = (): void => void job.moveItems({ act: "fit", item: props.item.id, ...room }, "sized");
const setPlace = (place: object, did: string): void => void job.changeItems({ [props.item.id]: { place } }, did);
const tryTurn = (turn_deg: number): void => void job.tryItems({ [props.item.id]: { place: { turn_deg } } });

const copy = (): Promise<void> => arrange.copy(props.item.id, [{ ...NO_MOVE, dx: BESIDE_MM, dy: BESIDE_MM }]);
</script>

<template>
  <AppFold
    v-if="frame" :title="t('arrange.place.title')" :name="`place-${item.kind}`" :opened="item.kind !== 'lettering'"
    :note="formatSize(frame.width, frame.height, stage.unit)"
  >
    <template v-if="!locked">
      <div class="fields">
        <template v-if="item.kind !== 'shape'">
          <SizeField :label="t('arrange.place.width')" :mm="frame.width" :unit="stage.unit" @settle="to({ width: $event }, 'sized')" />
          <SizeField :label="t('arrange.place.height')" :mm="frame.height" :unit="stage.unit" @settle="to({ height: $event }, 'sized')" />
        </template>
        <SizeField :label="t('arrange.place.x')" :mm="frame.middle.x" :unit="stage.unit" @settle="to({ x: $event }, 'moved')" />
        <SizeField :label="t('arrange.place.y')" :mm="frame.middle.y" :unit="stage.unit" @settle="to({ y: $event }, 'moved')" />
      </div>
      <AppSlider
        :label="t('arrange.place.turn')" :value="turn" :min="-180" :max="180" :step="1" unit="°" :low="t('arrange.place.level')" :high="t('arrange.place.around')"
        @move="tryTurn" @settle="setPlace({ turn_deg: $event }, 'turned')"
      />
      <div v-if="item.kind !== 'shape'" class="fit">
        <SizeField :label="t('arrange.place.fitWidth')" :mm="room.width" :unit="stage.unit" @settle="room.width = $event" />
        <SizeField :label="t('arrange.place.fitHeight')" :mm="room.height" :unit="stage.unit" @settle="room.height = $event" />
        <AppButton small @click="fitIn">{{ t("arrange.place.fitIn") }}</AppButton>
      </div>
      <div class="acts">
        <AppButton small :pressed="item.place?.mirrored ?? false" @click="setPlace({ mirrored: !item.place?.mirrored }, 'mirrored')">{{ t("arrange.place.mirror") }}</AppButton>
        <AppButton small @click="copy">{{ t("arrange.place.copy") }}</AppButton>
        <AppButton small @click="repeating = true">{{ t("arrange.place.repeat") }}</AppButton>
      </div>
    </template>
    <AppCheck :label="t('arrange.place.lock')" :value="locked" @settle="setPlace({ locked: $event }, $event ? 'locked' : 'unlocked')" />
    <p class="soft">{{ t(locked ? "arrange.place.locked" : "arrange.place.fit") }}</p>
    <RepeatDialog v-model="repeating" :item="item" :frame="frame" />
  </AppFold>
</template>

<style scoped>
.fields { display: grid; grid-template-columns: 1fr 1fr; gap: 10px; }
.fit { display: grid; grid-template-columns: 1fr 1fr auto; gap: 8px; align-items: end; }
.acts { display: flex; flex-wrap: wrap; gap: 6px; }
p { margin: 0; }
</style>
