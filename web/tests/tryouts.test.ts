import { mount } from "@vue/test-utils";
import { createPinia, setActivePinia } from "pinia";
import PrimeVue from "primevue/config";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { ColoursSettings, Job } from "@/api/types";
import { beatenOnes } from "@/core/beaten";
import { i18n } from "@/i18n";
import ToneStrip from "@/steps/colours/ToneStrip.vue";
import { useJob } from "@/stores/job";
import { useTryOuts } from "@/stores/tryOuts";

const recipe = (code: string) => ({ code, values: { count: 4 }, colours: { treatment: code }, lines: {} });
const tried = (likeness: number, minutes: number) => ({ likeness, minutes, layers: [], frame: [0, 0, 9, 9] });

/** Answers: recipes at once, try-outs as `answer` says. */
function serve(recipes: object[], answer: (body: { colours: { treatment: string } }) => object | number): string[] {
  const asked: string[] = [];
  vi.stubGlobal("fetch", async (url: string, options: RequestInit = {}) => {
    const body = JSON.parse(String(options.body)) as { colours: { treatment: string } };
    if (url.endsWith("/recipes")) return new Response(JSON.stringify(recipes));
    asked.push(body.colours.treatment);
    await Promise.resolve();
    if (options.signal?.aborted) throw new DOMException("aborted", "AbortError");
    const found = answer(body);
    return typeof found === "number"
      ? new Response(JSON.stringify({ code: "no_outline", message: "Take the background away." }), { status: found })
      : new Response(JSON.stringify(found));
  });
  return asked;
}

beforeEach(() => {
  localStorage.clear();
  setActivePinia(createPinia());
  const items = [{ id: "picture-1", kind: "picture", name: "Dog", course: { colours: {} } }, { id: "picture-2", kind: "picture", name: "Cat", course: { colours: {} } }];
  useJob().kept = { id: 7, revision: 1, moves: 1, document: { name: "Dog", items, make: {} } } as unknown as Job;
});

describe("try-outs", () => {
  it("are made one after the other; what cannot be made says why", async () => {
    const asked = serve([recipe("a"), recipe("b"), recipe("c")], ({ colours }) => (colours.treatment === "b" ? 422 : tried(50, 2)));
    const tries = useTryOuts();
    await tries.open();
    await vi.waitFor(() => expect(tries.left).toBe(0));
    expect(asked).toEqual(["a", "b", "c"]);
    expect(tries.all.map((one) => one.state)).toEqual(["done", "failed", "done"]);
    expect(tries.all[1]?.reason?.code).toBe("no_outline");
    expect(tries.picked).toBe("A");
  });

  it("asked for last come first, and a stop leaves the others waiting", async () => {
    const tries = useTryOuts();
    let made = 0;
    const asked = serve([recipe("a"), recipe("b")], () => {
      made += 1;
      if (made === 1) void tries.more();
      return tried(40 + made, made);
    });
    await tries.open();
    await vi.waitFor(() => expect(tries.left).toBe(0));
    expect(tries.all.length).toBe(2);
    await tries.more();
    await vi.waitFor(() => expect(tries.left).toBe(0));
    expect(tries.all.map((one) => one.letter)).toEqual(["C", "D", "A", "B"]);
    expect(asked.length).toBe(4);
    await tries.more();
    tries.stop();
    const left = tries.left;
    await new Promise((done) => setTimeout(done, 20));
    expect(left).toBeGreaterThan(0);
    expect(tries.left).toBe(left);
  });

  it("can be tried on the other pictures of the job", async () => {
    serve([recipe("a")], () => tried(50, 2));
    const tries = useTryOuts();
    await tries.open();
    await vi.waitFor(() => expect(tries.left).toBe(0));
    tries.onOthers();
    await vi.waitFor(() => expect(tries.left).toBe(0));
    expect(tries.all.map((one) => one.item.name)).toEqual(["Cat", "Dog"]);
  });

  it("stand back where another is as good with less work", () => {
    const all = [["A", 60, 5], ["B", 60, 9], ["C", 70, 12], ["D", 50, 5]] as const;
    const beaten = beatenOnes(all.map(([letter, likeness, minutes]) => ({ letter, tried: { likeness, minutes } })));
    expect([...beaten]).toEqual(["B", "D"]);
  });
});

describe("the strip of tones", () => {
  const tones = { histogram: [0.5, 0.5], thresholds: [30, 60], colours: ["#000000", "#777777", "#eeeeee"], bare: [false, false, true] };
  const settings = { thresholds: [], spacing: "best" } as unknown as ColoursSettings;

  it("moves a cut by key, never past the next one", async () => {
    const strip = mount(ToneStrip, { props: { tones, settings }, global: { plugins: [PrimeVue, i18n] } });
    const cut = strip.findAll("[role=slider]")[0];
    await cut?.trigger("keydown", { key: "ArrowRight" });
    expect(strip.emitted("settle")?.at(-1)).toEqual([{ thresholds: [31, 60] }]);
    for (let i = 0; i < 60; i++) await cut?.trigger("keydown", { key: "ArrowRight" });
    expect(strip.emitted("settle")?.at(-1)).toEqual([{ thresholds: [59, 60] }]);
  });

  it("leaves a tone to the cloth and takes it back", async () => {
    const strip = mount(ToneStrip, { props: { tones, settings }, global: { plugins: [PrimeVue, i18n] } });
    const [first, , last] = strip.findAll("li button");
    await first?.trigger("click");
    expect(strip.emitted("settle")?.at(-1)).toEqual([{ bare: [0, 2] }]);
    await last?.trigger("click");
    expect(strip.emitted("settle")?.at(-1)).toEqual([{ bare: [] }]);
  });
});
