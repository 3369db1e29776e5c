<script setup lang="ts">
/** Two states in register, divided by a seam that is dragged: the picture or a try-out on the left, the picked one on the right. */
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { imagePath, picturePath } from "@/api/jobs";
import { useJob } from "@/stores/job";
import { useTryOuts } from "@/stores/tryOuts";
import AppSelect from "@/ui/AppSelect.vue";

import TriedPicture from "./TriedPicture.vue";

const { t } = useI18n();
const job = useJob();
const tries = useTryOuts();
const PICTURE = "picture";
const STEP = 0.05;
const other = ref(PICTURE);
const at = ref(0.5);
const box = ref<HTMLElement>();
const options = computed(() => [
  { value: PICTURE, label: t("tryouts.picture") },
  ...tries.all.filter((one) => one.tried && one.letter !== tries.picked && one.item.id === tries.chosen?.item.id)
    .map((one) => ({ value: one.letter, label: one.letter })),
]);
const left = computed(() => tries.all.find((one) => one.letter === other.value && one.letter !== tries.picked)?.tried ?? null);
const address = computed(() => {
  const item = tries.chosen?.item.id ?? "";
  const own = job.result?.items.find((one) => one.id === item)?.images?.picture;
  return `/api${own ? imagePath(own) : picturePath(job.job?.id ?? 0, item)}`;
});

function drag(event: PointerEvent): void {
  const frame = box.value?.getBoundingClientRect();
  if (!frame || !(event.buttons & 1)) return;
  at.value = Math.min(1, Math.max(0, (event.clientX - frame.left) / frame.width));
}
function down(event: PointerEvent): void {
  (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
  drag(event);
}
function key(event: KeyboardEvent): void {
  const way = { ArrowLeft: -STEP, ArrowRight: STEP }[event.key];
  if (way !== undefined) at.value = Math.min(1, Math.max(0, at.value + way));
}
</script>

<template>
  <div ref="box" class="compare" @pointerdown="down" @pointermove="drag">
    <template v-if="tries.chosen?.tried">
      <div class="side" :style="{ clipPath: `inset(0 ${(1 - at) * 100}% 0 0)` }">
        <TriedPicture v-if="left" :tried="left" />
        <img v-else :src="address" alt="" draggable="false" />
      </div>
      <div class="side" :style="{ clipPath: `inset(0 0 0 ${at * 100}%)` }"><TriedPicture :tried="tries.chosen.tried" /></div>
      <div
        class="seam" role="slider" tabindex="0" aria-valuemin="0" aria-valuemax="100" :aria-valuenow="Math.round(at * 100)"
        :aria-label="t('tryouts.seam')" :style="{ left: `${at * 100}%` }" @keydown="key"
      />
      <div class="left" @pointerdown.stop><AppSelect v-model="other" :label="t('tryouts.left')" :options="options" hide-label /></div>
      <b class="right">{{ tries.picked }}</b>
    </template>
    <p v-else class="soft none">{{ t("tryouts.none") }}</p>
  </div>
</template>

<style scoped>
.compare { position: relative; background: var(--paper); border: 1px solid var(--line); overflow: hidden; touch-action: none; cursor: ew-resize; min-height: 0; }
.side { position: absolute; inset: 8px; }
.side > * { position: absolute; width: 100%; height: 100%; object-fit: contain; user-select: none; }
.side { inset: 0; padding: 8px; }
.side > * { inset: 0; }
.seam { position: absolute; top: 0; bottom: 0; width: 0; border-left: 2px solid var(--seam); }
.left { position: absolute; left: 6px; top: 6px; width: 108px; cursor: default; }
.right { position: absolute; right: 6px; top: 6px; padding: 4px 9px; font: 600 14px/1.2 var(--heading); background: var(--seam); color: var(--on-seam); }
.none { padding: 20px; }
</style>
