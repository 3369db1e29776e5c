/** What the person says about layers, as records that hold on to colours of items. */

import type { Layer, LayerRecord, LayersSettings } from "@/api/types";

type Records = Pick<LayersSettings, "records">;

/** A record without an id is given one by the server. */
function recordOf(layer: Layer, records: LayerRecord[]): LayerRecord {
  const before = records.find((record) => record.id !== "" && record.id === layer.id);
  // What it holds on to is refreshed, so that it follows colours that move little by little.
  return { id: before?.id ?? "", name: before?.name ?? null, colour: before?.colour ?? null, stock: before?.stock ?? null, anchors: layer.holds };
}

function put(record: LayerRecord, records: LayerRecord[]): LayerRecord[] {
  const rest = records.filter((one) => record.id === "" || one.id !== record.id);
  return [...rest, record];
}

/** With a name or a colour of one layer changed. */
export function withRecord(layer: Layer, change: Partial<LayerRecord>, { records }: Records): Records {
  return { records: put({ ...recordOf(layer, records), ...change }, records) };
}

/** With ids for layers that something refers to: a layer's id, or a dash and its number in the list of records. */
export function withNames(layers: Layer[], { records }: Records): Records & { names: string[] } {
  const all = [...records];
  const names = layers.map((layer) => {
    if (all.some((record) => record.id === layer.id)) return layer.id;
    all.push(recordOf(layer, all));
    return `-${all.length - 1}`;
  });
  return { records: all, names };
}

/** With one of a layer's colours cut as a layer of its own again. */
export function withParted(layer: Layer, hold: Layer["holds"][number], { records }: Records): Records {
  const rest = recordOf(layer, records);
  const left = put({ ...rest, anchors: layer.holds.filter((one) => one !== hold) }, records);
  return { records: [...left, { id: "", name: null, colour: null, stock: null, anchors: [hold] }] };
}

/** With one layer moved among the others. The places of layers without an id are named by a dash and their number in the list. */
export function withOrder(layers: Layer[], from: number, by: number, settings: Records): Pick<LayersSettings, "records" | "order"> {
  const moved = [...layers];
  const [layer] = moved.splice(from, 1);
  if (layer) moved.splice(from + by, 0, layer);
  const { records, names } = withNames(moved, settings);
  return { records, order: names };
}

/** With two layers made one. */
export function withMerged(from: Layer, into: Layer, { records }: Records): Records {
  const rest = records.filter((record) => record.id === "" || record.id !== from.id);
  const whole = recordOf(into, rest);
  return { records: put({ ...whole, anchors: [...into.holds, ...from.holds] }, rest) };
}
