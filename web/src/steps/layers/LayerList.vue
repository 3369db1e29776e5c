<script setup lang="ts">
/** The layers, lowest first: put in order, joined and parted, by drag or key. */
import { computed, onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Build, Layer, LayerRecord, LayersSettings } from "@/api/types";
import { useMakeControl } from "@/composables/useStepControl";
import { cutFrom } from "@/core/cutFrom";
import { inOrder, withMerged, withNames, withOrder, withParted, withRecord } from "@/core/layerRecords";
import { useJob } from "@/stores/job";
import { useLayers } from "@/stores/layers";
import { useStage } from "@/stores/stage";
import { useStocks } from "@/stores/stocks";
import AppButton from "@/ui/AppButton.vue";

import LayerRow from "./LayerRow.vue";

const props = defineProps<{ layers: Layer[] }>();
const { t } = useI18n();
const job = useJob();
const stage = useStage();
const looked = useLayers();
const stocks = useStocks();
const { settings, move, settle } = useMakeControl("layers");
const opened = ref("");
const dragged = ref(-1);
const over = ref<{ at: number; how: "onto" | "before" } | null>(null);

/** Those that are colours of items; a backing and a reverse are none. */
const own = computed(() => {
  const colours = props.layers.filter(({ id }) => id !== "backing" && id !== "reverse");
  return settings.value ? inOrder(colours, settings.value) : colours;
});
const below = computed(() => props.layers.length - own.value.length);
const shown = computed(() => [...props.layers.slice(0, below.value), ...own.value]);
const keyOf = (layer: Layer): string => layer.id || `${layer.holds[0]?.item}/${layer.key}`;
const kept = (): Pick<LayersSettings, "records"> => ({ records: settings.value?.records ?? [] });
const said = (layer: Layer, change: Partial<LayerRecord>): Pick<LayersSettings, "records"> => withRecord(layer, change, kept());

function rename(layer: Layer, name: string): void {
  if (layer.id === "backing" && settings.value) settle({ backing: { ...settings.value.backing, name } });
  else if (layer.id !== "reverse") settle(said(layer, { name }));
}

function colour(layer: Layer, value: string, act: typeof settle): void {
  const now = settings.value;
  if (!now) return;
  if (layer.id === "backing") act({ backing: { ...now.backing, colour: value, stock: null } });
  else if (layer.id === "reverse") act({ reverse: { ...now.reverse, colour: value, stock: null } });
  else act(said(layer, { colour: value }));
}

function take(layer: Layer, id: string): void {
  const chosen = cutFrom(stocks.drawer.stocks.find((one) => one.id === id));
  if (id && !chosen) return; // the drawer has it no more; the layer keeps it as it was
  settle(said(layer, { stock: chosen, colour: chosen?.colour ?? null, ...(chosen ? { name: chosen.name } : {}) }));
}

const coloursOf = (layer: Layer): { hold: Layer["holds"][number]; label: string }[] =>
  layer.holds.map((hold) => ({ hold, label: t("layers.colourOf", { colour: hold.colour, item: job.items.find(({ id }) => id === hold.item)?.name ?? "" }) }));
const othersOf = (layer: Layer): { index: number; name: string }[] => own.value.flatMap((one, index) => (one === layer ? [] : [{ index, name: one.name }]));

function aboveOf(at: number): { index: number; name: string; build: Build | "" }[] {
  const lower = own.value[at];
  return own.value.flatMap((upper, index) => {
    if (index <= at || !lower) return [];
    const found = settings.value?.meetings.find((one) => one.lower === lower.id && one.upper === upper.id && lower.id !== "");
    return [{ index, name: upper.name, build: found?.build ?? ("" as const) }];
  });
}

function meet(at: number, index: number, build: Build | ""): void {
  const { records, names } = withNames(own.value, kept());
  const [lower, upper] = [names[at], names[index]];
  if (!lower || !upper) return;
  const rest = (settings.value?.meetings ?? []).filter((one) => one.lower !== lower || one.upper !== upper);
  settle({ records, meetings: build ? [...rest, { lower, upper, build }] : rest });
}

/** Put a layer at another place. A press that comes before the last one is worked out builds on it. */
function shift(from: number, to: number): void {
  const change = withOrder(own.value, from, to, kept());
  if (change) settle(change);
}

function join(from: number, into: number): void {
  const [one, other] = [own.value[from], own.value[into]];
  if (one && other && one !== other) settle(withMerged([one, other], kept()));
}

function look(layer: Layer): void {
  looked.alone = props.layers.indexOf(layer);
  if (stage.first !== "alone") stage.second = "alone";
}

// Dragging: onto a layer joins, between two puts in order.

function onOver(at: number, event: DragEvent): void {
  if (dragged.value < 0) return;
  event.preventDefault();
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
  const share = (event.clientY - box.top) / box.height;
  over.value = share < 0.3 ? { at, how: "before" } : share > 0.7 ? { at: at + 1, how: "before" } : { at, how: "onto" };
}

function onDrop(): void {
  const [from, to] = [dragged.value, over.value];
  [dragged.value, over.value] = [-1, null];
  if (!to) return;
  if (to.how === "onto") join(from, to.at);
  else shift(from, to.at > from ? to.at - 1 : to.at);
}

const mark = (i: number): "" | "onto" | "before" => (over.value && over.value.at === i - below.value ? over.value.how : "");
onMounted(() => void stocks.open());
</script>

<template>
  <ol class="list" :class="{ open: opened }" @dragend="dragged = -1; over = null">
    <LayerRow
      v-for="(layer, i) in shown"
      :key="keyOf(layer)"
      :layer="layer"
      :first="i <= below"
      :last="i < below || i === shown.length - 1"
      :open="opened === keyOf(layer)"
      :stocks="stocks.drawer.stocks"
      :colours="coloursOf(layer)"
      :others="i < below ? [] : othersOf(layer)"
      :above="i < below ? [] : aboveOf(i - below)"
      :over="mark(i)"
      @rename="rename(layer, $event)"
      @try-colour="colour(layer, $event, move)"
      @colour="colour(layer, $event, settle)"
      @shift="shift(i - below, i - below + $event)"
      @open="opened = opened === keyOf(layer) ? '' : keyOf(layer)"
      @stock="take(layer, $event)"
      @part="settle(withParted(layer, $event, kept()))"
      @join="join(i - below, $event)"
      @meet="(index, build) => meet(i - below, index, build)"
      @look="look(layer)"
      @light="looked.lit = $event ? layers.indexOf(layer) : -1"
      @dragstart="dragged = i - below"
      @dragover="i >= below && onOver(i - below, $event)"
      @drop.prevent="onDrop"
    />
  </ol>
  <div v-if="own.length > 1" class="all"><AppButton small look="quiet" @click="settle(withMerged([...own].reverse(), kept()))">{{ t("layers.joinAll") }}</AppButton></div>
</template>

<style scoped>
.list { list-style: none; padding: 0; margin: 0; border: 1px solid var(--line); background: var(--card); max-height: 330px; overflow-y: auto; }
.all { display: flex; justify-content: flex-end; margin-top: -6px; }
.list.open { max-height: none; }
</style>
