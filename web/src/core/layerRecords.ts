/** What the person says about layers, as records that hold on to colours of items. */

import type { Layer, LayerRecord, LayersSettings } from "@/api/types";

type Records = Pick<LayersSettings, "records">;
type Ordered = Pick<LayersSettings, "records" | "order">;

/** The number of a layer's record, or -1. One that was made a moment ago has no id yet, or one that the layer does not know: it holds on to the same colours. */
function indexOf(layer: Layer, records: readonly LayerRecord[]): number {
  const known = records.findIndex(({ id }) => id !== "" && id === layer.id);
  return known >= 0 ? known : records.findIndex(({ anchors }) => isSame(anchors, layer.holds));
}

function isSame(anchors: LayerRecord["anchors"], holds: Layer["holds"]): boolean {
  return anchors.length === holds.length && anchors.every(({ item, colour }) => holds.some((hold) => hold.item === item && hold.colour === colour));
}

/** A record without an id is given one by the server. */
function recordOf(layer: Layer, records: readonly LayerRecord[]): LayerRecord {
  const before = records[indexOf(layer, records)];
  // What it holds on to is refreshed, so that it follows colours that move little by little.
  return { id: before?.id ?? "", name: before?.name ?? null, colour: before?.colour ?? null, stock: before?.stock ?? null, anchors: layer.holds };
}

/** The records with that of one layer last, so that it says more than those before. */
function put(layer: Layer, change: Partial<LayerRecord>, records: readonly LayerRecord[]): LayerRecord[] {
  const at = indexOf(layer, records);
  return [...records.filter((_, number) => number !== at), { ...recordOf(layer, records), ...change }];
}

/** With a name or a colour of one layer changed. */
export function withRecord(layer: Layer, change: Partial<LayerRecord>, { records }: Records): Records {
  return { records: put(layer, change, records) };
}

/** With records for layers that something refers to, and their names: a layer's id, or a dash and its number in the list of records. */
export function withNames(layers: readonly Layer[], { records }: Records): Records & { names: string[] } {
  const all = [...records];
  const names = layers.map((layer) => {
    const at = indexOf(layer, all);
    const number = at >= 0 ? at : all.push(recordOf(layer, all)) - 1;
    return all[number]?.id || `-${number}`;
  });
  return { records: all, names };
}

/** With one of a layer's colours cut as a layer of its own again. */
export function withParted(layer: Layer, hold: Layer["holds"][number], { records }: Records): Records {
  const left = put(layer, { anchors: layer.holds.filter((one) => one !== hold) }, records);
  return { records: [...left, { id: "", name: null, colour: null, stock: null, anchors: [hold] }] };
}

/** The layers in the order that was said last, though the result does not show it yet. */
export function inOrder(layers: readonly Layer[], { records, order }: Ordered): Layer[] {
  const place = (layer: Layer): number => {
    const at = indexOf(layer, records);
    return at < 0 ? -1 : order.indexOf(records[at]?.id || `-${at}`);
  };
  const places = layers.map(place);
  return places.includes(-1) ? [...layers] : layers.map((layer, i) => ({ layer, at: places[i] ?? i })).sort((a, b) => a.at - b.at).map(({ layer }) => layer);
}

/** With one layer at another place among the others; null where it is there already. The places of layers without an id are named by a dash and their number in the list. */
export function withOrder(layers: readonly Layer[], from: number, to: number, settings: Records): Ordered | null {
  const [moved, layer] = [[...layers], layers[from]];
  if (!layer || to < 0 || to >= layers.length || to === from) return null;
  moved.splice(from, 1);
  moved.splice(to, 0, layer);
  const { records, names } = withNames(moved, settings);
  return { records, order: names };
}

/** With several layers made one: the last of them, which keeps its name. */
export function withMerged(layers: readonly Layer[], { records }: Records): Records {
  const into = layers[layers.length - 1];
  if (!into) return { records };
  const others = layers.slice(0, -1).map((layer) => indexOf(layer, records));
  const whole: LayerRecord = { ...recordOf(into, records), anchors: [...layers].reverse().flatMap(({ holds }) => holds) };
  return { records: [...records.filter((_, number) => number !== indexOf(into, records) && !others.includes(number)), whole] };
}
