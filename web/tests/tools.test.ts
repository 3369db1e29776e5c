import { mount } from "@vue/test-utils";
import { createPinia, setActivePinia } from "pinia";
import PrimeVue from "primevue/config";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { effectScope, nextTick, ref, shallowRef } from "vue";

import type { BackgroundSettings, ColoursSettings, Job, PageFacts, PaletteChange, PaletteEntry, Result, Spot } from "@/api/types";
import { useStageImages } from "@/composables/useStageImages";
import { scaleOf, straightened, toPlace, toShare, type Placement } from "@/core/placement";
import { i18n } from "@/i18n";
import { useToolPointer } from "@/stage/useToolPointer";
import EnclosedSpots from "@/steps/background/EnclosedSpots.vue";
import PageControls from "@/steps/colours/PageControls.vue";
import PaletteList from "@/steps/colours/PaletteList.vue";
import PartsPicker from "@/steps/lines/PartsPicker.vue";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import { useStocks } from "@/stores/stocks";
import { useTools, type Use } from "@/stores/tools";

import { unfold } from "./fold";

const plugins = () => [PrimeVue, i18n];
beforeEach(() => setActivePinia(createPinia()));

describe("places on the picture", () => {
  const turned: Placement = [0, -80, 60, 80, 0, 5]; // a quarter turn clockwise, 80 mm wide before

  it("go to the page and back, whatever the turn", () => {
    for (const place of [{ x: 0, y: 0 }, { x: 1, y: 0.5 }, { x: 0.3, y: 0.7 }]) {
      const back = toShare(turned, toPlace(turned, place));
      expect(back.x).toBeCloseTo(place.x, 12);
      expect(back.y).toBeCloseTo(place.y, 12);
    }
    expect(toPlace(turned, { x: 0, y: 0.75 })).toEqual({ x: 0, y: 5 });
    expect(scaleOf(turned)).toBeCloseTo(80, 12);
  });

  it("turn about the middle when the picture is straightened", () => {
    expect(straightened({ x: 0.5, y: 0.25 }, 30, 0.5)).toEqual({ x: 0.5, y: 0.25 });
    const quarter = straightened({ x: 1, y: 0.25 }, 90, 0.5);
    expect(quarter.x).toBeCloseTo(0.5, 12);
    expect(quarter.y).toBeCloseTo(0.75, 12);
  });
});

/** A stage of 400 × 300 px at 2 px to the mm, on a picture of 100 mm. */
function layStage(): void {
  const job = useJob();
  job.kept = { id: 1, revision: 1, document: { items: [{ id: "picture-1", kind: "picture", course: {} }] } } as unknown as Job;
  const images = { picture: "", background: "b", colours: "c" };
  const items = [{ id: "picture-1", placement: [100, 0, 0, 0, 100, 0], raster: [100, 0, 0, 0, 100, 0], tall: 0.75, box: [0, 0, 100, 75], size: [100, 75], outline: "", images }];
  job.result = { items, findings: [], layers: [], width_mm: 100, height_mm: 75 } as unknown as Result;
  const stage = useStage();
  stage.setSize({ width: 400, height: 300 });
  stage.view = { scale: 2, x: 10, y: 20 };
}
const at = (x: number, y: number) => ({ x, y });
const event = (more: Partial<PointerEvent> = {}): PointerEvent =>
  ({ button: 0, pressure: 0.5, shiftKey: false, ...more }) as PointerEvent;

describe("a tool in hand", () => {
  it("draws a stroke in shares of the picture, with the pen's pressure", () => {
    layStage();
    const uses: Use[] = [];
    useTools().take({ name: "clear", kind: "stroke", done: (use) => uses.push(use) });
    const pointer = useToolPointer();
    expect(pointer.down(at(30, 40), event({ pressure: 0.2 }))).toBe(true);
    pointer.move(at(31, 40), event()); // too near to count
    pointer.move(at(50, 40), event({ pressure: 0.8 }));
    pointer.up(event());
    expect(uses[0]?.points).toEqual([{ x: 0.1, y: 0.1 }, { x: 0.2, y: 0.1 }]);
    expect(uses[0]?.pressures).toEqual([0.2, 0.8]);
  });

  it("makes a straight line while Shift is held", () => {
    layStage();
    const uses: Use[] = [];
    useTools().take({ name: "clear", kind: "stroke", done: (use) => uses.push(use) });
    const pointer = useToolPointer();
    pointer.down(at(30, 40), event());
    for (const x of [60, 90, 130]) pointer.move(at(x, 40 + x / 3), event({ shiftKey: true }));
    pointer.up(event({ shiftKey: true }));
    expect(uses[0]?.points).toHaveLength(2);
    expect(uses[0]?.shift).toBe(true);
  });

  it("takes a box, but not a slip of the hand", () => {
    layStage();
    const uses: Use[] = [];
    useTools().take({ name: "crop", kind: "box", done: (use) => uses.push(use) });
    const pointer = useToolPointer();
    pointer.down(at(30, 40), event());
    pointer.move(at(32, 41), event());
    pointer.up(event());
    expect(uses).toHaveLength(0);
    pointer.down(at(30, 40), event());
    pointer.move(at(110, 100), event());
    pointer.up(event());
    expect(uses[0]?.points[1]).toEqual({ x: 0.5, y: 0.4 });
  });

  it("is let go by Escape: first what is under way, then the tool", () => {
    layStage();
    const done = vi.fn();
    const tools = useTools();
    tools.take({ name: "clear", kind: "stroke", done });
    const pointer = useToolPointer();
    pointer.down(at(30, 40), event());
    const escape = { key: "Escape" } as KeyboardEvent;
    expect(pointer.key(escape)).toBe(true);
    expect(pointer.up(event())).toBe(false);
    expect(tools.tool).not.toBeNull();
    pointer.key(escape);
    expect(tools.tool).toBeNull();
    expect(pointer.key(escape)).toBe(false);
    expect(done).not.toHaveBeenCalled();
  });

  it("shows what a click would take only while it hovers, and leaves other buttons alone", () => {
    layStage();
    const hover = vi.fn();
    const tools = useTools();
    tools.take({ name: "spot_clear", kind: "click", done: () => undefined, hover });
    const pointer = useToolPointer();
    expect(pointer.down(at(30, 40), event({ button: 1 }))).toBe(false);
    pointer.move(at(30, 40), event({ shiftKey: true }));
    expect(hover).toHaveBeenLastCalledWith({ x: 0.1, y: 0.1 }, true);
    pointer.leave();
    expect(hover).toHaveBeenLastCalledWith(null, false);
  });
});

describe("enclosed background", () => {
  const spot = (x: number, taken: boolean, likelihood: number): Spot =>
    ({ at: [x, 0.2], corners: [[x - 0.05, 0.1], [x + 0.05, 0.3]], area_px: 90, likelihood, taken }) as Spot;
  const settings = { enclosed: "auto", enclosed_choices: [{ x: 0.9, y: 0.9, take: true }] } as unknown as BackgroundSettings;

  it("is ringed on the stage and taken one by one", async () => {
    const view = mount(EnclosedSpots, { props: { settings, spots: [spot(0.3, false, 0.5), spot(0.6, true, 0.95)], oneColour: false }, global: { plugins: plugins() } });
    const marks = useTools().marks;
    expect(marks).toHaveLength(2);
    expect(marks[0]?.colour).not.toBe(marks[1]?.colour);
    const boxes = view.findAll("input[type=checkbox]");
    expect(boxes.map((box) => (box.element as HTMLInputElement).checked)).toEqual([false, true]);
    expect(view.text()).toContain("maybe");
    await boxes[0]?.trigger("change");
    expect(view.emitted("settle")?.[0]).toEqual([
      { enclosed_choices: [{ x: 0.9, y: 0.9, take: true }, { x: 0.3, y: 0.2, take: true }] },
    ]);
    await boxes[1]?.trigger("focus");
    expect(useTools().marks[1]?.strong).toBe(true);
  });
});

describe("the palette", () => {
  const entry = (key: string, more: Partial<PaletteEntry> = {}): PaletteEntry =>
    ({ key, name: key, share: 0.5, small: false, pinned: false, pieces: 2, shown: [1, 2, 3], ...more }) as PaletteEntry;
  const settings = { pins: [{ colour: "#112233", name: "Ink" }], palette_changes: [] } as unknown as ColoursSettings;
  const lay = () =>
    mount(PaletteList, {
      props: { palette: [entry("#112233", { pinned: true }), entry("#445566"), entry("#445566-2")], layers: [], settings },
      global: { plugins: plugins() },
    });

  it("merges the chip that is dropped onto another", async () => {
    const view = lay();
    const [, second] = view.findAll(".chip");
    await second?.trigger("dragstart");
    await view.findAll("li")[0]?.trigger("drop");
    expect(view.emitted("settle")?.[0]).toEqual([
      { palette_changes: [{ kind: "merge", colour: "#445566", into: "#112233", x: null, y: null, ring: [] }] },
    ]);
  });

  it("lights a colour up, unpins it, and gives a second layer of one colour its own key", async () => {
    const view = lay();
    const edit = vi.spyOn(useJob(), "edit").mockResolvedValue();
    await view.findAll("li")[0]?.trigger("pointerenter");
    expect(useStage().lit).toEqual([1, 2, 3]);
    await view.findAll(".chip")[0]?.trigger("click");
    await view.findAll("button").find((button) => button.text() === "Unpin")?.trigger("click");
    expect(edit).toHaveBeenCalledWith("colours", { take_out: { pins: [0] } });
    await view.findAll(".chip")[2]?.trigger("click");
    await view.findAll("button").find((button) => button.text() === "See-through")?.trigger("click");
    expect(view.emitted("settle")?.[0]?.[0]).toMatchObject({ palette_changes: [{ kind: "clear", colour: "#445566-2" }] });
    view.unmount();
    expect(useStage().lit).toBeNull();
  });

  it("takes the next area clicked into a colour, or all those ringed", async () => {
    layStage();
    const view = lay();
    await view.findAll(".chip")[1]?.trigger("click");
    await view.findAll("button").find((button) => button.text() === "Take areas in")?.trigger("click");
    useTools().tool?.done({ points: [{ x: 0.25, y: 0.5 }], pressures: [0.5], shift: false });
    await nextTick();
    expect(view.emitted("settle")?.[0]?.[0]).toMatchObject({ palette_changes: [{ kind: "give", into: "#445566", x: 0.25, y: 0.5 }] });
    expect(useTools().tool).toBeNull();
    const points = Array.from({ length: 400 }, (_, i) => ({ x: 0.5 + 0.2 * Math.cos(i / 63), y: 0.5 + 0.2 * Math.sin(i / 63) }));
    await unfold(view, "Pin, shade, give away");
    await view.findAll("button").find((button) => button.text() === "Give areas their own layer")?.trigger("click");
    useTools().tool?.done({ points, pressures: [], shift: false });
    await nextTick();
    const [given] = (view.emitted("settle")?.[1] as [{ palette_changes: PaletteChange[] }])[0].palette_changes;
    expect(given).toMatchObject({ kind: "give", into: null, x: null });
    expect(given?.ring).toHaveLength(200);
  });
});

describe("specks of a page", () => {
  it("are ringed while the page is looked at, and no longer", () => {
    layStage();
    const page = { specks: [{ at: [0.2, 0.3], radius: 0.01, kept: false }], rules: 0, pen_mm: 0.5, bare: true } as unknown as PageFacts;
    const settings = { rules: "leave_out", specks: "leave_out", hand: "as_written", bolder_mm: 0, speck_choices: [] } as unknown as ColoursSettings;
    const view = mount(PageControls, { props: { page, settings }, global: { plugins: plugins() } });
    expect(useTools().marks).toHaveLength(1);
    view.unmount();
    expect(useTools().marks).toHaveLength(0);
  });
});

describe("a marked part of the lines", () => {
  it("begins with the picture's settings and is the one worked on", async () => {
    layStage();
    const settings = { closeness_mm: 0.1, corner_deg: 28, smoothing_mm: 0, simplify_mm: 0, drawn: "auto" as const, score: "auto" as const, close_gaps_mm: 0, roles: [], parts: [], corrections: [] };
    const view = mount(PartsPicker, { props: { settings, modelValue: -1 }, global: { plugins: plugins() } });
    await view.find("button").trigger("click");
    useTools().tool?.done({ points: [{ x: 0.6, y: 0.5 }, { x: 0.2, y: 0.1 }], pressures: [], shift: false });
    const part = { closeness_mm: 0.1, corner_deg: 28, smoothing_mm: 0, simplify_mm: 0, x: 0.2, y: 0.1, width: 0.39999999999999997, height: 0.4 };
    expect(view.emitted("settle")?.[0]).toEqual([{ parts: [part] }]);
    await view.setProps({ settings: { ...settings, parts: [part] } });
    expect(view.emitted("update:modelValue")?.at(-1)).toEqual([0]);
    expect(useTools().marks).toHaveLength(1);
    view.unmount();
    expect(useTools().marks).toHaveLength(0);
  });
});

describe("what is shown ahead of the result", () => {
  it("is over when a result comes, also one that was there before", async () => {
    vi.stubGlobal("fetch", async () => new Response(null, { status: 404 }));
    const shown = (key: string): Result => ({ key, preview: false, items: [{ id: "picture-1", images: { picture: "", background: key, colours: key } }] }) as unknown as Result;
    const result = shallowRef<Result | null>(shown("a"));
    const scope = effectScope();
    scope.run(() => useStageImages(ref(1), result, () => []));
    const tools = useTools();
    for (const key of ["a", "b"]) {
      tools.ground = {} as ImageBitmap;
      result.value = shown(key);
      await vi.waitFor(() => expect(tools.ground).toBeNull());
    }
    scope.stop();
  });
});

describe("the drawer of materials", () => {
  const drawer = (version: string, names: string[]) => ({ version, stocks: names.map((name) => ({ name, kind: "card", colour: "#112233" })) });

  it("is shown anew when another window has changed it, and says so", async () => {
    let turn = 0;
    vi.stubGlobal("fetch", async (_: string, options: RequestInit = {}) => {
      if (options.method === "PUT") return new Response(JSON.stringify({ code: "drawer_moved_on", message: "Changed elsewhere." }), { status: 409 });
      return new Response(JSON.stringify(turn++ ? drawer("b", ["Chalk", "Slate"]) : drawer("a", ["Chalk"])), { status: 200 });
    });
    const stocks = useStocks();
    await stocks.open();
    expect(stocks.drawer.stocks).toHaveLength(1);
    await stocks.keep([]);
    expect(stocks.error).toBe("Changed elsewhere.");
    expect(stocks.drawer.version).toBe("b");
  });
});
