<script setup lang="ts">
/** The palette as chips: hovering one lights it up on the stage, one dragged onto another is merged into it. */
import { onScopeDispose, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { ColoursSettings, Layer, PaletteChange, PaletteEntry } from "@/api/types";
import { useWhereabouts } from "@/composables/useWhereabouts";
import { formatPercent } from "@/core/units";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import { useTools } from "@/stores/tools";
import AppButton from "@/ui/AppButton.vue";
import AppFold from "@/ui/AppFold.vue";
import AppSelect from "@/ui/AppSelect.vue";

const RING_PX = 3;
const MOST_PLACES = 200; // of a ring
const SLIP = 0.01; // part of the picture's width; a smaller ring is a click

const props = defineProps<{ palette: PaletteEntry[]; layers: Layer[]; settings: ColoursSettings }>();
const emit = defineEmits<{ settle: [change: Partial<ColoursSettings>] }>();
const { t } = useI18n();
const stage = useStage();
const tools = useTools();
const job = useJob();
const where = useWhereabouts(() => (job.result?.preview ? undefined : job.itemResult?.images?.colours), () => props.palette); // a preview's wait
const open = ref<string | null>(null);
const dragged = ref<string | null>(null);
const over = ref<string | null>(null);

const nameOf = (entry: PaletteEntry): string => props.layers.find((layer) => layer.key === entry.key)?.name ?? entry.name;
const hexOf = (key: string): string => key.slice(0, 7);
const others = (key: string): { value: string; label: string }[] =>
  props.palette.filter((entry) => entry.key !== key).map((entry) => ({ value: entry.key, label: nameOf(entry) }));

function change(one: Partial<PaletteChange> & Pick<PaletteChange, "kind">): void {
  const whole: PaletteChange = { colour: null, into: null, x: null, y: null, ring: [], ...one };
  open.value = null;
  tools.take(null);
  emit("settle", { palette_changes: [...props.settings.palette_changes, whole] });
}

function togglePin(entry: PaletteEntry): void {
  const colour = hexOf(entry.key);
  const there = props.settings.pins.findIndex((pin) => pin.colour === colour);
  void job.edit("colours", there < 0 ? { add: { pins: [{ colour }] } } : { take_out: { pins: [there] } });
}

function drop(into: string): void {
  const colour = dragged.value;
  dragged.value = over.value = null;
  if (colour && colour !== into) change({ kind: "merge", colour, into });
}

/** A click takes the area there; a line drawn about several takes them all. */
function takeArea(into: string | null): void {
  tools.toggle({
    name: `give-${into ?? "own"}`, kind: "stroke", width: RING_PX,
    done: ({ points }) => {
      const [at] = points;
      if (!at) return;
      const [across, down] = [points.map(({ x }) => x), points.map(({ y }) => y)];
      const reach = Math.max(Math.max(...across) - Math.min(...across), Math.max(...down) - Math.min(...down));
      const every = Math.ceil(points.length / MOST_PLACES);
      if (points.length < 4 || reach < SLIP) change({ kind: "give", into, x: at.x, y: at.y });
      else change({ kind: "give", into, ring: points.filter((_, i) => i % every === 0).map(({ x, y }) => [x, y] as [number, number]) });
    },
  });
}

function light(entry: PaletteEntry | null): void {
  stage.lit = entry ? entry.shown : null;
}

onScopeDispose(() => light(null));
</script>

<template>
  <ul class="list">
    <li
      v-for="entry in palette" :key="entry.key" :class="{ over: over === entry.key && dragged !== entry.key }"
      @pointerenter="light(entry)" @pointerleave="light(null)"
      @dragover.prevent="over = entry.key" @dragleave="over = null" @drop.prevent="drop(entry.key)"
    >
      <button
        type="button" class="chip" draggable="true" :aria-expanded="open === entry.key"
        @click="open = open === entry.key ? null : entry.key" @focus="light(entry)" @blur="light(null)"
        @dragstart="dragged = entry.key" @dragend="dragged = over = null"
      >
        <span class="swatch" :style="{ background: hexOf(entry.key) }" />
        <img v-if="where[entry.key]" class="where" :src="where[entry.key]" alt="" />
        <span v-else class="where" />
        <span class="words">
          <b>{{ nameOf(entry) }}</b>
          <small class="soft">
            {{ t("colours.pieces", entry.pieces) }}<template v-if="entry.small"> · {{ t("colours.small") }}</template>
            <template v-if="entry.pinned"> · {{ t("palette.pinned") }}</template>
          </small>
        </span>
        <span class="number soft">{{ formatPercent(entry.share) }}</span>
      </button>
      <div v-if="open === entry.key" class="acts">
        <small class="soft">{{ hexOf(entry.key) }}</small>
        <AppSelect
          v-if="palette.length > 1" :model-value="''" :label="t('palette.mergeInto')" :options="others(entry.key)"
          @update:model-value="change({ kind: 'merge', colour: entry.key, into: $event })"
        />
        <div class="row">
          <AppButton small :pressed="entry.pinned" @click="togglePin(entry)">{{ t(entry.pinned ? "palette.unpin" : "palette.pin") }}</AppButton>
          <AppButton small @click="change({ kind: 'split', colour: entry.key })">{{ t("palette.split") }}</AppButton>
          <AppButton small @click="change({ kind: 'clear', colour: entry.key })">{{ t("palette.clear") }}</AppButton>
          <AppButton small @click="change({ kind: 'fill', colour: entry.key })">{{ t("palette.fill") }}</AppButton>
          <AppButton small :pressed="tools.tool?.name === `give-${entry.key}`" @click="takeArea(entry.key)">{{ t("palette.takeIn") }}</AppButton>
        </div>
      </div>
    </li>
  </ul>
  <p v-if="tools.tool?.name.startsWith('give')" class="soft" aria-live="polite">{{ t("palette.clickArea") }}</p>
  <AppFold :title="t('palette.byHand')" name="palette-by-hand">
    <div class="row">
      <AppButton small :pressed="tools.tool?.name === 'give-own'" @click="takeArea(null)">{{ t("palette.ownLayer") }}</AppButton>
    </div>
    <slot />
  </AppFold>
</template>

<style scoped>
.list { list-style: none; padding: 0; margin: 0; border: 1px solid var(--line); background: var(--card); }
li + li { border-top: 1px solid var(--line); }
li.over { outline: 2px solid var(--seam); outline-offset: -2px; }
.chip { width: 100%; display: grid; grid-template-columns: 20px 34px minmax(0, 1fr) auto; gap: 10px; align-items: center; padding: 2px 10px 2px 6px; border: 0; background: none; font: inherit; color: inherit; text-align: left; cursor: grab; }
.chip:hover { background: var(--hover); }
.swatch { height: 30px; border: 1px solid var(--edge); }
.where { width: 32px; height: 32px; }
.words { display: grid; line-height: 1.25; }
b { display: inline-block; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
b::first-letter { text-transform: uppercase; }
.acts { display: grid; gap: 8px; padding: 2px 10px 10px; }
.row { display: flex; flex-wrap: wrap; gap: 6px; }
</style>
