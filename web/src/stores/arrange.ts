import { defineStore } from "pinia";
import { computed, ref, shallowRef, watch } from "vue";

import type { DrawnItem, Item, ItemResult, ItemsMove, Part } from "@/api/types";
import {
  around, boxOfFrame, broughtInto, movedFrame, NO_MOVE, placementOf, snapped, type ArrangeScene, type Box, type Frame, type Guide, type Move,
} from "@/core/arrange";
import type { Point } from "@/core/nodeGrid";
import { toPlace, type Placement } from "@/core/placement";
import { formatSize } from "@/core/units";

import { useJob } from "./job";
import { useStage } from "./stage";

const SNAP_PX = 6;
type Side = Extract<ItemsMove["how"], { act: "align" }>["side"];

/** Items that are picked, and how they are moved, sized and turned. */
export const useArrange = defineStore("arrange", () => {
  const job = useJob();
  const stage = useStage();
  const pickedIds = ref<string[]>([]);
  const hoverId = ref("");
  const cursor = ref("");
  const move = shallowRef<Move | null>(null);
  const guides = shallowRef<Guide[]>([]);
  /** Nodes of the drawn line that is picked, while they are moved; and the one that is picked among them. */
  const nodes = shallowRef<DrawnItem["made"]["nodes"] | null>(null);
  const node = ref(-1);
  /** A move that was let go of, until its result is there. */
  const settling = ref(false);

  /** Whether the two that are picked are held against each other at the seam. */
  const comparing = ref(false);

  const active = computed(() => stage.step === "arrange");
  const items = computed<Item[]>(() => job.items);
  const picked = computed(() => items.value.filter((item) => pickedIds.value.includes(item.id)));
  const only = computed<Item | null>(() => (picked.value.length === 1 ? (picked.value[0] ?? null) : null));
  const resultOf = (id: string): ItemResult | null => job.result?.items.find((one) => one.id === id) ?? null;

  function frameOf(id: string): Frame | null {
    const shown = resultOf(id);
    const item = items.value.find((one) => one.id === id);
    if (!shown || !item) return null;
    const [left, top, right, bottom] = shown.box;
    return { id, middle: { x: (left + right) / 2, y: (top + bottom) / 2 }, width: shown.size[0], height: shown.size[1], turn: item.place?.turn_deg ?? 0 };
  }
  const frames = computed(() => items.value.flatMap((item) => (item.hidden ? [] : (frameOf(item.id) ?? []))));
  const movable = (item: Item): boolean => item.kind !== "border" && !item.place?.locked;
  const moving = computed(() => picked.value.filter(movable).map((item) => item.id));
  const pickedFrames = computed(() => pickedIds.value.flatMap((id) => frameOf(id) ?? []));
  const page = computed<Box>(() => ({ left: 0, top: 0, right: job.result?.width_mm ?? 0, bottom: job.result?.height_mm ?? 0 }));

  watch(items, (now) => (pickedIds.value = pickedIds.value.filter((id) => now.some((item) => item.id === id))));
  watch(() => job.result, (now) => {
    // What was let go of stays where it was put until the result of it is there, and not a moment longer.
    if (settling.value && now && !now.preview) endMove();
  });
  watch(active, (now) => { if (!now) pick([]); });
  watch(pickedIds, (ids) => { if (ids.length !== 2) comparing.value = false; });
  watch(only, () => { nodes.value = null; node.value = -1; });

  function pick(ids: string[]): void {
    pickedIds.value = ids;
  }
  function toggle(id: string, further: boolean): void {
    if (!further) pick([id]);
    else pick(pickedIds.value.includes(id) ? pickedIds.value.filter((one) => one !== id) : [...pickedIds.value, id]);
  }

  function endMove(): void {
    move.value = null;
    guides.value = [];
    settling.value = false;
  }

  /** Move what is picked, lined up with what lies near unless `free`. */
  function drag(by: Point, free: boolean): void {
    if (!moving.value.length) return;
    const own = frames.value.filter((frame) => moving.value.includes(frame.id));
    if (!own.length) return;
    const box = around(own.map((frame) => boxOfFrame(movedFrame(frame, { ...NO_MOVE, dx: by.x, dy: by.y }))));
    const others = frames.value.filter((frame) => !moving.value.includes(frame.id)).map(boxOfFrame);
    const snap = free ? { dx: 0, dy: 0, guides: [] } : snapped(box, others, page.value, SNAP_PX / stage.view.scale);
    settling.value = false;
    move.value = { ...NO_MOVE, dx: by.x + snap.dx, dy: by.y + snap.dy };
    guides.value = snap.guides;
  }

  function hold(next: Move): void {
    settling.value = false;
    move.value = next;
  }

  /** Keep what the hand has done. */
  async function keep(did: "moved" | "sized" | "turned" | "stretched"): Promise<void> {
    const now = move.value;
    if (!now || !moving.value.length) return endMove();
    guides.value = [];
    settling.value = true;
    await moveBy(now, did);
    if (job.refusal || job.work === "failed") endMove();
  }

  const moveBy = (by: Move, did: "moved" | "sized" | "turned" | "stretched"): Promise<void> =>
    job.moveItems({ act: "by", items: Object.fromEntries(moving.value.map((id) => [id, by])) }, did);

  async function nudge(dx: number, dy: number): Promise<void> {
    if (moving.value.length) await moveBy({ ...NO_MOVE, dx, dy }, "moved");
  }

  /** Edges or middles of what is picked brought to one line: that of all of them, or of the page for one alone. */
  const align = (side: Side): Promise<void> => job.moveItems({ act: "align", items: pickedIds.value, side }, "aligned");

  /** Equal gaps between three or more. */
  const spread = (across: boolean): Promise<void> => job.moveItems({ act: "spread", items: pickedIds.value, across }, "spread");

  /** Pick what comes in, unless something else was picked while it came. */
  async function pickComing(coming: Promise<string[]>): Promise<void> {
    const before = pickedIds.value.join();
    const came = await coming;
    if (came.length && pickedIds.value.join() === before) pick(came);
  }

  /** Copies of an item, which are picked in its place. */
  const copy = (id: string, moves: Move[]): Promise<void> => pickComing(job.copyItem(id, moves));

  const setPart = (part: Partial<Part>): Promise<void> =>
    only.value ? job.changeItems({ [only.value.id]: { part } }, "part") : Promise.resolve();

  const shownNodes = computed<ArrangeScene["nodes"]>(() => {
    const item = only.value;
    const shown = item && resultOf(item.id);
    if (item?.kind !== "drawn" || !shown || (move.value && !nodes.value)) return [];
    return (nodes.value ?? item.made.nodes).map((one, i) => {
      const at = (x: number, y: number): Point => toPlace(shown.placement, { x, y });
      const handles = i === node.value
        ? ([[one.in_x, one.in_y], [one.out_x, one.out_y]] as const).filter(([x, y]) => x || y).map(([x, y]) => at(one.x + (x ?? 0), one.y + (y ?? 0)))
        : [];
      return { place: at(one.x, one.y), handles, picked: i === node.value };
    });
  });

  /** Items that are not cut themselves. */
  const takesAway = computed<ReadonlySet<string>>(
    () => new Set(items.value.filter((item) => ["cuts", "keeps"].includes(item.part?.kind ?? "")).map((item) => item.id)),
  );
  const live = computed<ReadonlyMap<string, Placement> | null>(() => {
    const now = move.value;
    if (!now) return null;
    return new Map(frames.value.filter((frame) => moving.value.includes(frame.id)).map((frame) => [frame.id, placementOf(frame, now)]));
  });
  const scene = computed<ArrangeScene>(() => {
    const now = move.value ?? NO_MOVE;
    const shown = pickedFrames.value.map((frame) => (moving.value.includes(frame.id) ? movedFrame(frame, now) : frame));
    const hovered = hoverId.value && !pickedIds.value.includes(hoverId.value) ? frameOf(hoverId.value) : null;
    const [one] = shown;
    const turn = one ? ((one.turn % 360) + 360) % 360 : 0;
    return {
      picked: shown, hover: hovered, handles: only.value !== null && movable(only.value), live: live.value, guides: guides.value,
      compared: comparing.value ? pickedFrames.value.map((frame) => ({ id: frame.id, placement: broughtInto(boxOfFrame(frame), page.value) })) : null,
      label: one ? formatSize(one.width, one.height, stage.unit) + (turn ? ` · ${Math.round(turn * 2) / 2}°` : "") : "",
      nodes: shownNodes.value,
    };
  });

  return {
    active, comparing, pickedIds, picked, only, hoverId, cursor, move, guides, nodes, node, frames, pickedFrames, moving, scene, shownNodes, takesAway,
    frameOf, resultOf, movable, pick, toggle, endMove, drag, hold, keep, nudge, align, spread, pickComing, copy, setPart,
  };
});
