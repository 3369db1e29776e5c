import { defineStore } from "pinia";
import { computed, ref, shallowRef, watch } from "vue";

import type { Correction } from "@/api/types";
import { NodeGrid, type NodeHit, type Point } from "@/core/nodeGrid";
import type { PathNodes } from "@/core/pathNodes";
import { scaleOf, toPlace, toShare } from "@/core/placement";
import { boxOf } from "@/core/viewport";

import { useJob } from "./job";
import { useStage } from "./stage";

type Kind = Correction["kind"];
const KEPT_PX = 14; // how far a picked node may have moved on the stage and still be the one picked
export const NUDGE_MM = 0.1;

/** Corrections by hand on the cut lines: what is under the pointer, what is picked, and what is done with it. */
export const useHand = defineStore("hand", () => {
  const job = useJob();
  const stage = useStage();
  const hover = shallowRef<NodeHit | null>(null);
  const picked = shallowRef<NodeHit[]>([]);
  const radius = ref(2);
  /** The nodes of the shapes on the stage, layer by layer. */
  const nodes = shallowRef<PathNodes[]>([]);
  let moved: Point | null = null;

  // What is drawn in strokes has no edges of the picture that could be corrected.
  const active = computed(() => stage.step === "lines" && !job.facts?.lines.strokes.length && [stage.first, stage.second].includes("cut_lines"));
  const corrections = computed<Correction[]>(() => job.course?.lines.corrections ?? []);
  const leftOut = computed(() => job.facts?.lines.left_out ?? []);
  /** The part of the page that the open picture's lines lie in. */
  const region = computed<[number, number, number, number] | undefined>(() => {
    if (!job.itemResult) return undefined;
    const { x, y, width, height } = boxOf(job.itemResult.box);
    return [x, y, width, height];
  });
  const grid = computed(() => {
    const result = job.result;
    if (!result || !active.value) return null;
    return new NodeGrid(nodes.value, result.width_mm, result.height_mm, region.value);
  });

  // After a new trace a picked node is the one that is there now; a preview comes and goes while the hand still moves.
  // One that was moved is looked for as a share of the picture, since the page may have grown under the preview it was moved on.
  watch(grid, (now) => {
    hover.value = null;
    if (job.result?.preview) return;
    const places = moved ? [pageOf(moved)] : picked.value;
    picked.value = places.flatMap((one) => now?.near(one, KEPT_PX / stage.view.scale) ?? []);
  });
  watch(active, (now) => {
    if (now) return;
    moved = null;
    picked.value = [];
  });

  /** A place of the page as a share of the width of the picture that came in. */
  const share = (place: Point): Point => (job.itemResult ? toShare(job.itemResult.placement, place) : { x: 0, y: 0 });
  /** The other way around. */
  const pageOf = (place: Point): Point => (job.itemResult ? toPlace(job.itemResult.placement, place) : { x: 0, y: 0 });

  /** A correction; places are shares. */
  function oneOf(kind: Kind, at: Point, to?: Point, radius_mm?: number): Correction {
    return { kind, x: at.x, y: at.y, to_x: to?.x ?? null, to_y: to?.y ?? null, radius_mm: radius_mm ?? null };
  }

  function tryOut(kind: Kind, at: Point, to: Point): void {
    void job.tryOut("lines", { corrections: [...corrections.value, oneOf(kind, at, to)] });
  }

  async function keep(kind: Kind, at: Point, to?: Point, radius_mm?: number): Promise<void> {
    moved = kind === "move" && to && picked.value.length === 1 ? to : null;
    await job.edit("lines", { add: { corrections: [oneOf(kind, at, to, radius_mm)] } });
  }

  /** Do something with what is picked. */
  async function act(kind: Kind): Promise<void> {
    const [one, other] = picked.value;
    if (!one) return;
    if (["straight", "arc", "join"].includes(kind)) {
      if (other) await keep(kind, share(one), share(other));
    } else {
      await keep(kind, share(one), undefined, kind === "round" ? radius.value : undefined);
    }
    if (kind === "remove") picked.value = [];
  }

  function pick(node: NodeHit | null, further: boolean): void {
    moved = null;
    if (!node) picked.value = [];
    else if (!further) picked.value = [node];
    else picked.value = [...picked.value.filter((one) => one.x !== node.x || one.y !== node.y), node].slice(-2);
  }

  function pickFollowing(by: number): void {
    const next = grid.value?.following(picked.value.at(-1) ?? null, by);
    if (!next) return;
    moved = null;
    picked.value = [next];
    stage.lookAt(next);
  }

  async function nudge(dx: number, dy: number): Promise<void> {
    const [one] = picked.value;
    if (one) await keep("move", share(one), share({ x: one.x + dx, y: one.y + dy }));
  }

  async function takeBack(all: boolean): Promise<void> {
    moved = null;
    picked.value = [];
    const last = corrections.value.length - 1;
    await (all ? job.change("lines", { corrections: [] }) : job.edit("lines", { take_out: { corrections: [last] } }));
  }

  /** mm on the page to the width of the picture that came in. */
  const pageWidth = computed(() => (job.itemResult ? scaleOf(job.itemResult.placement) : 1));

  return { active, pageWidth, hover, picked, radius, nodes, corrections, leftOut, grid, share, pageOf, tryOut, keep, act, pick, pickFollowing, nudge, takeBack };
});
