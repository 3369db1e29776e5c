<script setup lang="ts">
/** The layers, lowest first: put in order, joined and parted, by drag or key. */
import { computed, onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Layer, LayerRecord, LayersSettings } from "@/api/types";
import { useMakeControl } from "@/composables/useStepControl";
import { cutFrom } from "@/core/cutFrom";
import { withMerged, withNames, withOrder, withParted, withRecord } from "@/core/layerRecords";
import { useJob } from "@/stores/job";
import { useLayers } from "@/stores/layers";
import { useStage } from "@/stores/stage";
import { useStocks } from "@/stores/stocks";

import LayerRow from "./LayerRow.vue";

type Build = "whole" | "lapped" | "flush";
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
const own = computed(() => props.layers.filter(({ id }) => id !== "backing" && id !== "reverse"));
const below = computed(() => props.layers.length - own.value.length);
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

function look(at: number): void {
  looked.alone = at;
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
  const [layer, target] = [own.value[from], to ? own.value[to.at] : undefined];
  if (!layer || !to) return;
  if (to.how === "onto") {
    if (target && target !== layer) settle(withMerged(layer, target, kept()));
    return;
  }
  const place = to.at > from ? to.at - 1 : to.at;
  if (place !== from) settle(withOrder(own.value, from, place - from, kept()));
}

const mark = (i: number): "" | "onto" | "before" => (over.value && over.value.at === i - below.value ? over.value.how : "");
onMounted(() => void stocks.open());
</script>

<template>
  <ol class="list" :class="{ open: opened }" @dragend="dragged = -1; over = null">
    <LayerRow
      v-for="(layer, i) in layers"
      :key="keyOf(layer)"
      :layer="layer"
      :first="i <= below"
      :last="i < below || i === layers.length - 1"
      :open="opened === keyOf(layer)"
      :stocks="stocks.drawer.stocks"
      :colours="coloursOf(layer)"
      :others="i < below ? [] : othersOf(layer)"
      :above="i < below ? [] : aboveOf(i - below)"
      :over="mark(i)"
      @rename="rename(layer, $event)"
      @try-colour="colour(layer, $event, move)"
      @colour="colour(layer, $event, settle)"
      @shift="settle(withOrder(own, i - below, $event, kept()))"
      @open="opened = opened === keyOf(layer) ? '' : keyOf(layer)"
      @stock="take(layer, $event)"
      @part="settle(withParted(layer, $event, kept()))"
      @join="own[$event] && settle(withMerged(layer, own[$event]!, kept()))"
      @meet="(index, build) => meet(i - below, index, build)"
      @look="look(i)"
      @light="looked.lit = $event ? i : -1"
      @dragstart="dragged = i - below"
      @dragover="i >= below && onOver(i - below, $event)"
      @drop.prevent="onDrop"
    />
  </ol>
</template>

<style scoped>
.list { list-style: none; padding: 0; margin: 0; border: 1px solid var(--line); background: var(--card); max-height: 330px; overflow-y: auto; }
.list.open { max-height: none; }
</style>
