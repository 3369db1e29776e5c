import { defineStore } from "pinia";
import { computed, ref, shallowRef, watch } from "vue";

import { ApiError } from "@/api/client";
import { getPieces } from "@/api/pieces";
import type { PieceChange, PieceRow, Pieces, PiecesSettings } from "@/api/types";
import { Latest } from "@/core/latest";
import type { Point } from "@/core/nodeGrid";
import { alike, changeOf, changeOfAll, drawnChange, foundAgain, isHere, isWindow, mapPlacement, tooSmall, within, type PieceScene } from "@/core/pieces";
import { scaleOf, toPlace, toShare, type Placement } from "@/core/placement";

import { useJob } from "./job";
import { useStage } from "./stage";

export const NUDGE_MM = 0.5;
/** More pieces than this are not lit up one by one while a slider moves. */
export const MOST_LIT = 4000;

/** The pieces of the open picture: which are there, which are gone, what is picked, and what is done with them. */
export const usePieces = defineStore("pieces", () => {
  const job = useJob();
  const stage = useStage();
  const list = shallowRef<Pieces | null>(null);
  const error = shallowRef<ApiError | null>(null);
  /** How pieces are being put right: what rules did is ringed only while rules are looked at. */
  const way = ref<"hand" | "rules" | "list">("hand");
  const picked = ref<number[]>([]);
  const hover = ref(-1);
  /** Where a row of the list is pointed at that is gone. */
  const looked = ref(-1);
  /** Rules as the hand moves them, to be counted before anything goes. */
  const trial = shallowRef<Partial<PiecesSettings> | null>(null);
  /** By how much the picked ones are moved while the hand is at it, mm of the page. */
  const moving = shallowRef<Point | null>(null);
  /** A bridge while its end is moved by hand, mm of the page. */
  const pulled = shallowRef<readonly [Point, Point] | null>(null);
  const paths = new Map<string, Path2D>();
  const latest = new Latest();

  const active = computed(() => stage.step === "pieces");
  const rows = computed<PieceRow[]>(() => list.value?.rows ?? []);
  const settings = computed<PiecesSettings | undefined>(() => job.course?.pieces);
  const changes = computed<PieceChange[]>(() => settings.value?.changes ?? []);
  const facts = computed(() => job.facts?.pieces);
  const here = computed(() => rows.value.flatMap((row, i) => (isHere(row) ? [i] : [])));
  const gone = computed(() => rows.value.flatMap((row, i) => (isHere(row) ? [] : [i])));
  const pickedRows = computed(() => picked.value.flatMap((i) => rows.value[i] ?? []));

  async function load(): Promise<void> {
    const [id, item] = [job.kept?.id, job.item?.id];
    if (id === undefined || !item) return;
    try {
      const found = await latest.run((signal) => getPieces(id, item, signal));
      if (!found) return;
      const before = rows.value;
      list.value = found;
      picked.value = foundAgain(before, picked.value, found.rows);
      hover.value = looked.value = -1;
      trial.value = moving.value = pulled.value = null;
      error.value = null;
      for (const key of paths.keys()) if (!found.rows.some((row) => row.path === key)) paths.delete(key);
    } catch (reason) {
      if (reason instanceof ApiError && ["superseded", "aborted", "cancelled"].includes(reason.code)) return;
      error.value = reason instanceof ApiError ? reason : new ApiError("defect", String(reason));
    }
  }
  watch(
    () => (active.value && job.result && !job.result.preview ? `${job.result.key}/${job.item?.id}` : ""),
    (now, before) => {
      if (!now) return;
      if (now.split("/")[1] !== before?.split("/")[1] && before) picked.value = [];
      void load();
    },
    { immediate: true },
  );
  watch(() => job.item?.id, () => (list.value = null));

  /** From mm of the picture's map to mm of the page. */
  const placement = computed<Placement | null>(() =>
    job.itemResult && list.value ? mapPlacement(job.itemResult.raster, list.value.width) : null,
  );

  const pathOf = (row: PieceRow): Path2D => {
    const found = paths.get(row.path) ?? new Path2D(row.path);
    paths.set(row.path, found);
    return found;
  };

  let tester: CanvasRenderingContext2D | null = null;
  /** The number of the piece at a place of the page; -1 where none is. */
  function at(page: Point): number {
    if (!placement.value) return -1;
    const { x, y } = toShare(placement.value, page);
    tester ??= document.createElement("canvas").getContext("2d");
    for (const i of here.value) {
      const row = rows.value[i];
      if (!row) continue;
      const [left, top, right, bottom] = row.box;
      if (x >= left && x <= right && y >= top && y <= bottom && tester?.isPointInPath(pathOf(row), x, y, "evenodd")) return i;
    }
    return -1;
  }

  // Picking

  function pick(number: number, further: boolean): void {
    if (number < 0) picked.value = further ? picked.value : [];
    else if (!further) picked.value = [number];
    else picked.value = picked.value.includes(number) ? picked.value.filter((i) => i !== number) : [...picked.value, number];
  }
  /** Those in a ring. Returns how many there are. */
  function pickWithin(ring: readonly Point[], further: boolean): number {
    const [map, page] = [placement.value, job.itemResult?.placement];
    const found = map && page ? within(rows.value, ring, (place) => toShare(page, toPlace(map, place))) : [];
    picked.value = further ? [...new Set([...picked.value, ...found])] : found;
    return found.length;
  }
  function pickAlike(): void {
    picked.value = [...new Set(pickedRows.value.flatMap((row) => alike(rows.value, row)))];
  }
  /** All of the words, or of the lines of writing, that picked pieces belong to. */
  function pickWhole(what: "word" | "line"): void {
    const wanted = new Set(pickedRows.value.map((row) => row[what]).filter((number) => number >= 0));
    const own = here.value.filter((i) => wanted.has(rows.value[i]?.[what] ?? -1));
    if (own.length) picked.value = own;
  }
  function pickAt(places: readonly (readonly [number, number])[]): void {
    const found = places.map(([x, y]) => at(job.itemResult ? toPlace(job.itemResult.placement, { x, y }) : { x, y }));
    picked.value = [...new Set(found.filter((i) => i >= 0))];
  }
  function pickFollowing(by: number): void {
    const order = [...here.value].sort((a, b) => (rows.value[a]?.area ?? 0) - (rows.value[b]?.area ?? 0));
    const now = order.indexOf(picked.value.at(-1) ?? -1);
    const next = order[(now + by + order.length) % Math.max(1, order.length)];
    if (next === undefined) return;
    picked.value = [next];
    showRow(next);
  }
  function showRow(number: number): void {
    const [row, place] = [rows.value[number], job.itemResult?.placement];
    if (row && place) stage.lookAt(toPlace(place, { x: row.at[0], y: row.at[1] }));
  }

  // Changes

  const add = (list: PieceChange[]): Promise<void> => (list.length ? job.edit("pieces", { add: { changes: list } }) : Promise.resolve());
  const toPicked = (kind: PieceChange["kind"], fields: Partial<PieceChange> = {}): Promise<void> =>
    add(pickedRows.value.map((row) => changeOf(row, kind, fields)));

  async function drop(fill: "around" | "open"): Promise<void> {
    const own = pickedRows.value.map((row) => changeOf(row, "drop", { fill }));
    picked.value = [];
    await add(own);
  }
  async function dropRow(number: number): Promise<void> {
    const row = rows.value[number];
    if (row) await add([changeOf(row, "drop")]);
  }
  /** What is gone comes back: the change by hand is taken out, or the rule is told to leave it. */
  async function giveBack(numbers: readonly number[]): Promise<void> {
    const own = numbers.flatMap((i) => rows.value[i] ?? []);
    const out = [...new Set(own.flatMap((row) => (row.change >= 0 ? [row.change] : [])))];
    const keep = own.filter((row) => row.change < 0).map((row) => changeOf(row, "keep"));
    if (out.length || keep.length) await job.edit("pieces", { take_out: { changes: out }, add: { changes: keep } });
  }
  /** Move the picked ones by so many mm of the page. */
  async function moveBy(by: Point): Promise<void> {
    const place = job.itemResult?.placement;
    if (!place) return;
    const [zero, to] = [toShare(place, { x: 0, y: 0 }), toShare(place, by)];
    await add(changeOfAll(pickedRows.value, "move", { dx: to.x - zero.x, dy: to.y - zero.y }));
  }
  /** Ends of the bridges that a rule made, mm of the page. */
  const bridges = computed<[Point, Point][]>(() => {
    const place = job.itemResult?.placement;
    return place ? (facts.value?.bridges ?? []).map(([[a, b], [c, d]]) => [toPlace(place, { x: a, y: b }), toPlace(place, { x: c, y: d })]) : [];
  });
  /** Keep the bridge that was pulled: the rule then makes none between the same pieces. */
  async function keepPulled(): Promise<void> {
    const place = job.itemResult?.placement;
    if (!place || !pulled.value) return;
    const [from, to] = pulled.value;
    const nearest = pickedRows.value[0] ?? rows.value[at(from)] ?? rows.value[at(to)] ?? rows.value.find((row) => isHere(row) && row.colour);
    const width = settings.value?.bridge_mm ?? 1;
    if (nearest?.colour) await add([drawnChange("bridge", [toShare(place, from), toShare(place, to)], width, nearest.colour)]);
    pulled.value = null;
  }
  const takeBackLast = (): Promise<void> => job.edit("pieces", { take_out: { changes: [changes.value.length - 1] } });
  const takeOutMissed = (): Promise<void> => job.edit("pieces", { take_out: { changes: facts.value?.missed ?? [] } });

  // What is seen

  /** Those that would go by the rules as the hand moves them. */
  const going = computed<number[]>(() => {
    const now = { ...settings.value, ...trial.value };
    return trial.value && (trial.value.smallest_mm2 !== undefined || trial.value.smallest_window_mm2 !== undefined)
      ? tooSmall(rows.value, now.smallest_mm2 ?? facts.value?.least[0] ?? 0, now.smallest_window_mm2 ?? facts.value?.least[1] ?? 0, now.spare_telling ?? true)
      : [];
  });
  const largestGoing = computed(() => going.value.reduce((best, i) => ((rows.value[i]?.area ?? 0) > (rows.value[best]?.area ?? 0) ? i : best), going.value[0] ?? -1));

  const scene = computed<PieceScene | null>(() => {
    if (!placement.value || !active.value) return null;
    const shapes = (numbers: readonly number[]) =>
      numbers.slice(0, MOST_LIT).flatMap((i) => {
        const row = rows.value[i];
        return row ? [{ path: pathOf(row), box: row.box, window: isWindow(row) }] : [];
      });
    const place = job.itemResult?.placement;
    const pages = (places: readonly (readonly [number, number])[]): Point[] => places.map(([x, y]) => (place ? toPlace(place, { x, y }) : { x, y }));
    return {
      map: placement.value,
      hover: shapes(hover.value >= 0 ? [hover.value] : []),
      picked: shapes(picked.value),
      going: shapes(going.value),
      ring: shapes(largestGoing.value >= 0 ? [largestGoing.value] : []),
      gone: shapes(looked.value >= 0 ? [looked.value] : []),
      marks: way.value === "rules" ? pages(facts.value?.marks ?? []) : [],
      bridges: bridges.value,
      moving: moving.value,
      pulled: pulled.value,
    };
  });
  /** mm of the page to a mm of the map. */
  const scale = computed(() => (placement.value ? scaleOf(placement.value) : 1));

  return {
    active, way, list, error, rows, settings, changes, facts, here, gone, picked, pickedRows, hover, looked, trial, moving, going, largestGoing, scene, scale, placement,
    at, pick, pickWithin, pickAlike, pickWhole, pickAt, pickFollowing, showRow, add, toPicked, drop, dropRow, giveBack, moveBy, bridges, pulled, keepPulled, takeOutMissed, takeBackLast,
  };
});
