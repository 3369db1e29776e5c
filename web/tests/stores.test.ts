import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { watch } from "vue";

import type { Job, Result } from "@/api/types";
import { useJob } from "@/stores/job";
import { useShelf } from "@/stores/shelf";
import { useStage } from "@/stores/stage";

function job(revision: number, more: Partial<Job> = {}): Job {
  const course = { lines: { closeness_mm: 0.1, corrections: [] }, colours: { count: null } };
  const document = { version: 2, name: "Boat", items: [{ id: "picture-1", kind: "picture", course }], make: { layers: { build: "whole" } } };
  return { id: 7, revision, moves: revision, document, undo: null, redo: null, ...more } as unknown as Job;
}
/** What the server says of a change that was made on the revision before. */
function changed(revision: number, base = revision - 1): object {
  return { id: 7, revision, base, moves: revision, undo: null, redo: null };
}
const result = (key: string, preview = false): Result => ({ key, preview, layers: [], items: [], findings: [] }) as unknown as Result;

const UNSENT = "bisectum.unsent.folder1.7";

type Answer = { status?: number; body?: unknown; wait?: Promise<void> };
let asked: string[] = [];
let sent: { path: string; body: Record<string, unknown> }[] = [];

/** Answer requests by the end of their address, in order; the last answer stays. */
function serve(answers: Record<string, Answer[]>): void {
  asked = [];
  sent = [];
  vi.stubGlobal("fetch", async (url: string, options: RequestInit = {}) => {
    asked.push(`${options.method ?? "GET"} ${url}`);
    if (typeof options.body === "string") sent.push({ path: url, body: JSON.parse(options.body) as Record<string, unknown> });
    const key = Object.keys(answers).find((end) => url.endsWith(end));
    const list = key ? (answers[key] ?? []) : [];
    const answer = list.length > 1 ? list.shift() : list[0];
    if (!answer) throw new TypeError("no answer");
    await answer.wait;
    if (options.signal?.aborted) throw new DOMException("aborted", "AbortError");
    const status = answer.status ?? 200;
    return new Response(status === 204 ? null : JSON.stringify(answer.body), { status, headers: { "Data-Folder": "folder1" } });
  });
}

beforeEach(() => {
  localStorage.clear();
  setActivePinia(createPinia());
});

describe("the job on the bench", () => {
  it("opens with its result", async () => {
    serve({ "/jobs/7": [{ body: job(3) }], "/result": [{ body: result("full") }] });
    const store = useJob();
    await store.open(7);
    expect(store.result?.key).toBe("full");
    expect(store.work).toBe("idle");
    expect(store.course?.lines.closeness_mm).toBe(0.1);
  });

  it("lets a change end that was under way when its job was left", async () => {
    let answer = (): void => undefined;
    const wait = new Promise<void>((resolve) => (answer = resolve));
    serve({
      "/jobs/7": [{ body: job(3) }], "/jobs/8": [{ body: job(1, { id: 8 }) }], "/result": [{ body: result("full") }],
      "/steps/lines": [{ body: changed(4), wait }],
    });
    const store = useJob();
    await store.open(7);
    const change = store.change("lines", { closeness_mm: 0.3 });
    store.close();
    await store.open(8);
    answer();
    await change;
    expect(store.job?.id).toBe(8);
    expect(asked).toContain("PUT /api/jobs/7/items/picture-1/steps/lines");
  });

  it("shows a preview without keeping it, then the full result", async () => {
    serve({
      "/jobs/7": [{ body: job(3) }],
      "/result": [{ body: result("full") }, { body: result("after") }],
      "/preview": [{ body: result("seen", true) }],
      "/steps/lines": [{ body: changed(4) }],
    });
    const store = useJob();
    await store.open(7);
    await store.tryOut("lines", { closeness_mm: 0.3 });
    expect(store.result?.preview).toBe(true);
    expect(store.job?.revision).toBe(3);
    await store.change("lines", { closeness_mm: 0.3 });
    expect(store.job?.revision).toBe(4);
    await vi.waitFor(() => expect(store.result?.key).toBe("after"));
  });

  it("shows previews one after the other and leaves out those between", async () => {
    let release: () => void = () => undefined;
    const wait = new Promise<void>((resolve) => (release = resolve));
    serve({
      "/jobs/7": [{ body: job(3) }],
      "/result": [{ body: result("full") }],
      "/preview": [{ body: result("old", true), wait }, { body: result("new", true) }],
    });
    const store = useJob();
    await store.open(7);
    const seen: (string | undefined)[] = [];
    watch(() => store.result?.key, (key) => seen.push(key), { flush: "sync" });
    const old = store.tryOut("lines", { closeness_mm: 0.2 });
    for (const closeness_mm of [0.25, 0.28, 0.3]) await store.tryOut("lines", { closeness_mm });
    release();
    await old;
    expect(seen).toEqual(["old", "new"]);
    expect(asked.filter((one) => one.endsWith("/preview"))).toHaveLength(2);
    expect(store.error).toBeNull();
  });

  it("forgets previews that wait when the change is kept", async () => {
    let release: () => void = () => undefined;
    const wait = new Promise<void>((resolve) => (release = resolve));
    serve({
      "/jobs/7": [{ body: job(3) }],
      "/result": [{ body: result("full") }, { body: result("after") }],
      "/preview": [{ body: result("old", true), wait }],
      "/steps/lines": [{ body: changed(4) }],
    });
    const store = useJob();
    await store.open(7);
    const old = store.tryOut("lines", { closeness_mm: 0.2 });
    await store.tryOut("lines", { closeness_mm: 0.3 });
    await store.change("lines", { closeness_mm: 0.3 });
    release();
    await old;
    await vi.waitFor(() => expect(store.result?.key).toBe("after"));
    expect(asked.filter((one) => one.endsWith("/preview"))).toHaveLength(1);
  });

  it("says what went wrong and keeps the job", async () => {
    serve({
      "/jobs/7": [{ body: job(3) }],
      "/result": [{ body: result("full") }],
      "/steps/colours": [{ status: 422, body: { code: "settings", message: "Too many.", details: {} } }],
    });
    const store = useJob();
    await store.open(7);
    await store.change("colours", { count: 99 });
    expect(store.refusal?.message).toBe("Too many.");
    expect(store.job?.revision).toBe(3);
    expect(store.course?.colours.count).toBeNull();
    expect(store.result?.key).toBe("full");
  });

  it("shows the job anew when another window has changed it, and says that the change was not made", async () => {
    serve({
      "/jobs/7": [{ body: job(3) }, { body: job(9) }],
      "/result": [{ body: result("full") }, { body: result("theirs") }],
      "/steps/lines": [{ status: 409, body: { code: "job_moved_on", message: "Changed elsewhere.", details: {} } }],
    });
    const store = useJob();
    await store.open(7);
    await store.change("lines", { closeness_mm: 0.3 });
    expect(store.job?.revision).toBe(9);
    await vi.waitFor(() => expect(store.result?.key).toBe("theirs"));
    expect(store.refusal?.message).toBe("Changed elsewhere.");
  });

  it("tells stopped work from failed work", async () => {
    serve({ "/jobs/7": [{ body: job(3) }], "/result": [{ status: 409, body: { code: "cancelled", message: "Stopped." } }] });
    const store = useJob();
    await store.open(7);
    expect(store.work).toBe("stopped");
    expect(store.error).toBeNull();
    serve({ "/result": [{ status: 500, body: { code: "process_ended", message: "It broke off." } }] });
    await store.workOut();
    expect(store.work).toBe("failed");
    expect(store.error?.code).toBe("process_ended");
  });

  it("makes quick changes one after the other, each on the newest state, and shows all at once", async () => {
    let answer = (): void => undefined;
    const wait = new Promise<void>((resolve) => (answer = resolve));
    const put = "/steps/lines";
    serve({
      "/jobs/7": [{ body: job(3) }], "/result": [{ body: result("full") }],
      [put]: [{ body: changed(4), wait }, { body: changed(5) }, { body: changed(6) }],
    });
    const store = useJob();
    await store.open(7);
    const all = [0.2, 0.3, 0.4].map((closeness_mm) => store.change("lines", { closeness_mm }));
    expect(store.course?.lines.closeness_mm).toBe(0.4);
    expect(store.unsent).toBe(3);
    expect(asked.filter((one) => one.endsWith(put))).toHaveLength(1);
    answer();
    await Promise.all(all);
    expect(sent.filter((one) => one.path.endsWith(put)).map(({ body }) => [body.revision, body.settings])).toEqual([
      [3, { closeness_mm: 0.2 }], [4, { closeness_mm: 0.3 }], [5, { closeness_mm: 0.4 }],
    ]);
    expect(store.job?.revision).toBe(6);
    expect(store.unsent).toBe(0);
  });

  it("asks for the job anew where more has changed than was sent", async () => {
    serve({
      "/jobs/7": [{ body: job(3) }, { body: job(9) }], "/result": [{ body: result("full") }],
      "/steps/lines": [{ body: changed(9, 8) }],
    });
    const store = useJob();
    await store.open(7);
    await store.change("lines", { closeness_mm: 0.3 });
    expect(store.job?.revision).toBe(9);
    expect(store.course?.lines.closeness_mm).toBe(0.1);
  });

  it("keeps changes while nobody answers, and sends them when somebody does", async () => {
    vi.useFakeTimers();
    serve({ "/jobs/7": [{ body: job(3) }], "/result": [{ body: result("full") }] });
    const store = useJob();
    await store.open(7);
    const change = store.change("lines", { closeness_mm: 0.3 });
    await vi.waitFor(() => expect(store.waiting).toBe(true));
    expect(store.course?.lines.closeness_mm).toBe(0.3);
    expect(localStorage.getItem(UNSENT)).toContain("0.3");
    serve({ "/jobs/7": [{ body: job(3) }], "/result": [{ body: result("full") }], "/steps/lines": [{ body: changed(4) }] });
    await vi.advanceTimersByTimeAsync(1500);
    await change;
    expect([store.waiting, store.job?.revision, localStorage.getItem(UNSENT)]).toEqual([false, 4, null]);
    vi.useRealTimers();
  });

  /** Changes as a page that has gone left them, each begun on revision 3. */
  function leftBehind(...requests: [path: string, page: string][]): void {
    const all = requests.map(([path, page], number) => ({
      ticket: `t-${number + 1}`, page, base: 3, request: { method: "POST", path: `/jobs/7${path}`, body: {} }, shown: { name: "Jetty" },
    }));
    localStorage.setItem(UNSENT, JSON.stringify(all));
  }

  it("sends what a reload interrupted, under the same tickets", async () => {
    leftBehind(["/made", "gone"], ["/undo", "gone"]);
    serve({ "/jobs/7": [{ body: job(3) }], "/result": [{ body: result("full") }], "/made": [{ body: job(4) }], "/undo": [{ body: job(3) }] });
    const store = useJob();
    await store.open(7);
    await vi.waitFor(() => expect(store.unsent).toBe(0));
    expect(sent.map(({ path, body }) => [path, body.revision, body.ticket])).toEqual([["/api/jobs/7/made", 3, "t-1"], ["/api/jobs/7/undo", 4, "t-2"]]);
    expect(localStorage.getItem(UNSENT)).toBeNull();
  });

  it("makes nothing on a state that its tab has not seen", async () => {
    leftBehind(["/made", "one"], ["/name", "another"]);
    serve({
      "/jobs/7": [{ body: job(3) }, { body: job(4) }], "/result": [{ body: result("full") }], "/made": [{ body: job(4) }],
      "/name": [{ status: 409, body: { code: "job_moved_on", message: "This was changed in another window meanwhile." } }],
    });
    const store = useJob();
    await store.open(7);
    await vi.waitFor(() => expect(store.refusal?.code).toBe("job_moved_on"));
    expect(sent.map(({ body }) => body.revision)).toEqual([3, 3]);
    expect([store.job?.document.name, localStorage.getItem(UNSENT)]).toEqual(["Boat", null]);
  });

  it("keeps every kind of change while nobody answers", async () => {
    vi.useFakeTimers();
    serve({ "/jobs/7": [{ body: job(3) }], "/result": [{ body: result("full") }] });
    const store = useJob();
    await store.open(7);
    void store.rename("Jetty");
    void store.addItem({ kind: "lettering", name: "Fog", fields: {}, stroke: [], mm_per_px: 0.1, lifts: [] });
    void store.copyItem("picture-1", []);
    void store.takeOutItem("picture-1");
    void store.resize(80);
    void store.undo();
    const kept = JSON.parse(localStorage.getItem(UNSENT) ?? "[]") as { request: { path: string } }[];
    expect(kept.map(({ request }) => request.path.replace("/jobs/7/", ""))).toEqual([
      "name", "made", "items/picture-1/copies", "items/picture-1/taken-out", "size", "undo",
    ]);
    expect([store.unsent, store.job?.document.name]).toEqual([6, "Jetty"]);
    store.close();
    vi.useRealTimers();
  });

  it("keeps a change that belongs to another data folder", async () => {
    serve({
      "/jobs/7": [{ body: job(3) }], "/result": [{ body: result("full") }], "/name": [{ status: 409, body: { code: "other_folder", message: "Load the page anew." } }],
    });
    const store = useJob();
    await store.open(7);
    await store.rename("Jetty");
    expect([store.refusal?.code, localStorage.getItem(UNSENT)?.includes("Jetty")]).toEqual(["other_folder", true]);
  });

  it("adds one member to a long list without sending the others", async () => {
    const corrections = Array.from({ length: 50 }, (_, x) => ({ kind: "remove", x, y: 0 }));
    const long = job(3);
    (long.document.items[0] as unknown as { course: { lines: object } }).course.lines = { closeness_mm: 0.1, corrections };
    serve({ "/jobs/7": [{ body: long }], "/result": [{ body: result("full") }], "/steps/lines": [{ body: changed(4) }] });
    const store = useJob();
    await store.open(7);
    await store.edit("lines", { add: { corrections: [{ kind: "remove", x: 99, y: 0 }] } });
    expect(JSON.stringify(sent.at(-1)?.body ?? sent).length).toBeLessThan(300);
    expect(store.course?.lines.corrections).toHaveLength(51);
  });

  it("does not let a job that answers late take the place of one opened after it", async () => {
    let answer = (): void => undefined;
    const wait = new Promise<void>((resolve) => (answer = resolve));
    serve({ "/jobs/7": [{ body: job(3), wait }], "/jobs/8": [{ body: job(1, { id: 8 }) }], "/result": [{ body: result("full") }] });
    const store = useJob();
    const first = store.open(7);
    await store.open(8);
    answer();
    await first;
    expect(store.job?.id).toBe(8);
  });

  it("undoes only where there is something to undo", async () => {
    serve({ "/jobs/7": [{ body: job(3) }], "/result": [{ body: result("full") }], "/undo": [{ body: job(2) }] });
    const store = useJob();
    await store.open(7);
    await store.undo();
    expect(asked.some((one) => one.includes("/undo"))).toBe(false);
    serve({
      "/jobs/7": [{ body: job(3, { undo: { revision: 3, what: "x", values: {}, made_at: "", done: true } }) }],
      "/result": [{ body: result("full") }],
      "/undo": [{ body: job(2) }],
    });
    await store.open(7);
    await store.undo();
    expect(store.job?.revision).toBe(2);
  });

  it("says so when nobody answers", async () => {
    serve({});
    const store = useJob();
    await store.open(7);
    expect(store.error?.code).toBe("offline");
  });
});

describe("the shelf", () => {
  it("brings in what it can and says what it could not", async () => {
    serve({
      "/jobs": [
        { status: 422, body: { code: "picture_unknown", message: "No picture." } },
        { status: 201, body: job(1) },
        { body: { jobs: [{ id: 7, name: "Boat", changed_at: "", has_thumbnail: false }], freed_bytes: 0 } },
      ],
    });
    const shelf = useShelf();
    const last = await shelf.bring([new File(["x"], "a.txt"), new File(["y"], "b.png")]);
    expect(last?.id).toBe(7);
    expect(shelf.error?.code).toBe("picture_unknown");
    expect(shelf.jobs).toHaveLength(1);
    expect(shelf.bringing).toBeNull();
  });

  it("is shown anew after a job has gone", async () => {
    serve({ "/jobs/7": [{ status: 204 }], "/jobs": [{ body: { jobs: [], freed_bytes: 0 } }], "/shelf/thrown": [{ body: [] }], "/shelf/samples": [{ body: [] }] });
    const shelf = useShelf();
    await shelf.remove(7);
    expect(asked).toEqual(["DELETE /api/jobs/7", "GET /api/jobs", "GET /api/shelf/thrown", "GET /api/shelf/samples"]);
    expect(shelf.loaded).toBe(true);
  });
});

describe("the stage", () => {
  const page = { x: 0, y: 0, width: 100, height: 100 };
  const picture = { x: -10, y: -20, width: 120 };

  it("shows all of a new page, and keeps what the person looks at", () => {
    const stage = useStage();
    stage.setSize({ width: 800, height: 600 });
    stage.setPage(page, picture);
    const fitted = stage.view.scale;
    stage.zoom(4, { x: 100, y: 100 });
    stage.setPage({ ...page, width: 100.02 }, picture);
    expect(stage.view.scale).toBeCloseTo(4 * fitted);
    const { x, y, scale } = stage.view;
    stage.setPage({ ...page, width: 250, height: 250 }, { x: -25, y: -50, width: 300 });
    expect(stage.view.scale * 300).toBeCloseTo(scale * 120);
    expect(stage.view.x - 25 * stage.view.scale).toBeCloseTo(x - 10 * scale);
    expect(stage.view.y - 50 * stage.view.scale).toBeCloseTo(y - 20 * scale);
    stage.showAll();
    expect(stage.view.scale).toBeLessThan(fitted);
  });

  it("knows where the seam stands on the page, upright and level", () => {
    const stage = useStage();
    stage.setSize({ width: 800, height: 600 });
    stage.setPage(page, picture);
    expect(stage.seamMm).toBeCloseTo(50);
    stage.turnSeam();
    expect(stage.axis).toBe("y");
    expect(stage.seamMm).toBeCloseTo(50);
    stage.setSeam(1.7);
    expect(stage.seam).toBe(1);
    expect(stage.seamPx).toBe(600);
  });

  it("opens a step with the state it is about", () => {
    const stage = useStage();
    stage.openStep("lines");
    expect([stage.step, stage.second]).toEqual(["lines", "cut_lines"]);
    stage.openStep("background");
    expect(stage.second).toBe("background");
  });
});
