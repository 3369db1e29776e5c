import { mount } from "@vue/test-utils";
import { createPinia, setActivePinia } from "pinia";
import PrimeVue from "primevue/config";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { defineComponent, h } from "vue";

import type { Change, Job, Result } from "@/api/types";
import { useChangeWords } from "@/composables/useChangeWords";
import { useSummary } from "@/composables/useSummary";
import { i18n } from "@/i18n";
import EdgeView from "@/stage/EdgeView.vue";
import LayersTray from "@/steps/layers/LayersTray.vue";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";

import { unfold } from "./fold";

const hold = (colour: string) => ({ item: "picture-1", colour, x: 0.5, y: 0.5 });
const layers = [
  { id: "", holds: [hold("#2f5d7c")], key: "#2f5d7c", name: "Blue", colour: "#2f5d7c", pieces: 1, windows: 0, nodes: 8, area_mm2: 90, path: "M0,0L1,0L1,1Z", strokes: [], runs_under: [] },
  { id: "layer-2", holds: [hold("#c8452f")], key: "#c8452f", name: "Red", colour: "#c8452f", pieces: 3, windows: 0, nodes: 12, area_mm2: 30, path: "M0,0L1,0L1,1Z", strokes: [], runs_under: [] },
];
const facts = {
  picture: { format: "PNG", width_px: 600, height_px: 887, dpi: null, mm_per_px: 0.25 },
  background: { kind: "plain", share: 0.75, reach: 1, colour: [255, 255, 255], enclosed: [[1, 2, 3], [4, 5, 6]] },
  colours: { method: "flat", found: 2, absorbed: 3, palette: [{ key: "#2f5d7c", name: "Blue", share: 0.9, small: false }] },
  lines: { segments: 20, straight: 5, deviation_mm: 0.084, cut_length_mm: 1234, repaired: 0, strokes: [], left_out: [] },
  pieces: { here: 12, gone: 3, kept: 0, marks: [], bridges: [], missed: [], suggestions: [] },
};

function lay(build = "whole"): void {
  const job = useJob();
  const records = [{ id: "layer-2", name: "Lid", colour: null, anchors: [] }];
  const settings = {
    build, order: [], records, base: "#1c2a44", meetings: [], variants: [], cloth: "", material: "card", knock_out: false, lap_mm: 0.5, folds: "score",
    backing: { kind: "none" },
  };
  const document = { name: "Boat", items: [{ id: "picture-1", kind: "picture", course: { lines: { corrections: [] } } }], make: { layers: settings, sheets: { layout: "in_place", split: "none", carrier: { name: "A4 mat", usable_width_mm: 200, usable_height_mm: 287 } } } };
  job.kept = { id: 1, revision: 1, document } as unknown as Job;
  const items = [{ id: "picture-1", facts, box: [0, 0, 142, 205.88], size: [142, 205.88] }];
  job.result = { key: "k", preview: false, width_mm: 142, height_mm: 205.88, build, layers, items, findings: [] } as unknown as Result;
}

const plugins = () => [PrimeVue, i18n];
beforeEach(() => {
  setActivePinia(createPinia());
  vi.stubGlobal("fetch", async () => new Response(JSON.stringify({ version: "", stocks: [] }), { status: 200 }));
});

describe("the edge view", () => {
  const bars = [
    { layer: 0, start: 0, stop: 100, below: 0 },
    { layer: 1, start: 20, stop: 60, below: 1 },
  ];

  it("draws each bar where the seam crosses the piece, on the stage's scale", () => {
    lay();
    const stage = useStage();
    stage.setSize({ width: 800, height: 600 });
    stage.setPage({ x: 0, y: 0, width: 100, height: 100 }, { x: 0, y: 0, width: 100 });
    const view = mount(EdgeView, { props: { bars }, global: { plugins: plugins() } });
    const [base, low, high] = view.findAll("rect");
    expect(base?.attributes("fill")).toBe("#1c2a44");
    expect(low?.attributes("fill")).toBe("#2f5d7c");
    expect(Number(high?.attributes("y"))).toBeCloseTo(stage.view.y + 20 * stage.view.scale);
    expect(Number(high?.attributes("height"))).toBeCloseTo(40 * stage.view.scale);
    expect(Number(high?.attributes("x"))).toBeGreaterThan(Number(low?.attributes("x")));
    expect(view.findAll("text").map((text) => text.text())).toEqual(["1", "2", "1"]);
  });

  it("lies along the stage when the seam is level", async () => {
    lay();
    const stage = useStage();
    stage.setSize({ width: 800, height: 600 });
    stage.setPage({ x: 0, y: 0, width: 100, height: 100 }, { x: 0, y: 0, width: 100 });
    stage.turnSeam();
    const view = mount(EdgeView, { props: { bars }, global: { plugins: plugins() } });
    const low = view.findAll("rect")[1];
    expect(Number(low?.attributes("x"))).toBeCloseTo(stage.view.x);
    expect(Number(low?.attributes("width"))).toBeCloseTo(100 * stage.view.scale);
  });
});

describe("the layers tray", () => {
  it("changes order, names and colours without losing what was said before", async () => {
    lay();
    const job = useJob();
    const change = vi.spyOn(job, "changeMake").mockResolvedValue();
    const tray = mount(LayersTray, { global: { plugins: plugins() } });
    await tray.get('[aria-label="Move Red up"]').trigger("click");
    const lid = { id: "layer-2", name: "Lid", colour: null, anchors: [] };
    const blue = { id: "", name: null, colour: null, stock: null, anchors: [hold("#2f5d7c")] };
    expect(change).toHaveBeenLastCalledWith("layers", { order: ["layer-2", "-1"], records: [lid, blue] });
    expect(tray.get('[aria-label="Move Blue up"]').attributes("disabled")).toBeDefined();
    const name = tray.get('[aria-label="Name of Blue"]');
    await name.setValue("Sea");
    await name.trigger("blur");
    expect(change).toHaveBeenLastCalledWith("layers", { records: [lid, { ...blue, name: "Sea" }] });
    await name.setValue("   ");
    await name.trigger("blur");
    expect(change).toHaveBeenCalledTimes(2);
    await unfold(tray, "Shown on");
    await tray.get('[aria-label="Kraft card"]').trigger("click");
    expect(change).toHaveBeenLastCalledWith("layers", { base: "#c29a6b" });
  });
});

describe("words", () => {
  function inSetup<T>(make: () => T): T {
    let made: T | undefined;
    mount(defineComponent({ setup: () => ((made = make()), () => h("i")) }), { global: { plugins: plugins() } });
    return made as T;
  }

  it("sum up every step in a line", () => {
    lay("flush");
    const summary = inSetup(useSummary);
    expect(summary.value.picture).toBe("600 × 887 px, 142.0 × 205.9 mm");
    expect(summary.value.background).toBe("One colour, gone from 75 %, 2 spots left inside");
    expect(summary.value.colours).toBe("1 colour, 3 specks absorbed");
    expect(summary.value.lines).toBe("20 nodes, within 0.08 mm");
    expect(summary.value.layers).toBe("Flush, edge to edge");
    expect(summary.value.sheets).toBe("A4 mat");
    const job = useJob();
    job.result = { ...(job.result as Result), width_mm: 288, height_mm: 100 };
    expect(summary.value.sheets).toBe("Larger than A4 mat");
    expect(summary.value.export).toBe("2 layers in one file");
  });

  it("name what a change did", () => {
    const words = inSetup(useChangeWords);
    const change = (what: string, values: object): Change => ({ what, values, revision: 1, made_at: "", done: true }) as Change;
    expect(words(change("changed_colours", { count: 4 }))).toBe("Number of colours");
    expect(words(change("changed_background", { mode: "colour", colour: "#ffffff" }))).toBe("Background");
    expect(words(change("renamed", { name: "Boat" }))).toBe("Renamed to Boat");
  });
});
