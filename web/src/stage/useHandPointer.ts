import { shallowRef } from "vue";

import { toPage } from "@/core/viewport";
import type { Point } from "@/core/nodeGrid";
import { NUDGE_MM, useHand } from "@/stores/hand";
import { useStage } from "@/stores/stage";

const REACH_PX = 9;
const MOVED_PX = 3;

/** Both places are shares of the picture's width, which stay true when a preview changes the page. */
export interface Drag {
  kind: "move" | "handle";
  from: Point;
  to: Point;
}

/** Pointer and keys of the corrections by hand. Each handler says whether the event was its own. */
export function useHandPointer() {
  const hand = useHand();
  const stage = useStage();
  const drag = shallowRef<Drag | null>(null);
  let began: Point | null = null;
  let dragged = false;

  /** Whether the cut lines are what a place of the stage shows. */
  function onLines(at: Point): boolean {
    if (!hand.active) return false;
    const state = at[stage.axis] < stage.seamPx ? stage.first : stage.second;
    return state === "cut_lines";
  }

  function handleAt(page: Point, reach: number): Point | null {
    for (const node of hand.picked) {
      const found = node.handles.find(({ x, y }) => Math.hypot(x - page.x, y - page.y) <= reach);
      if (found) return found;
    }
    return null;
  }

  function down(at: Point, further: boolean): boolean {
    dragged = false;
    if (!onLines(at)) return false;
    const page = toPage(stage.view, at);
    const reach = REACH_PX / stage.view.scale;
    const handle = handleAt(page, reach);
    const node = hand.grid?.near(page, reach) ?? null;
    began = at;
    if (handle && (!node || Math.hypot(handle.x - page.x, handle.y - page.y) < Math.hypot(node.x - page.x, node.y - page.y))) {
      grab("handle", handle);
      return true;
    }
    if (!node) return false;
    hand.pick(node, further);
    grab("move", node);
    return true;
  }

  function grab(kind: Drag["kind"], place: Point): void {
    stage.hold();
    const from = hand.share(place);
    drag.value = { kind, from, to: from };
  }

  function move(at: Point): boolean {
    const page = toPage(stage.view, at);
    if (!drag.value) {
      hand.hover = onLines(at) ? (hand.grid?.near(page, REACH_PX / stage.view.scale) ?? null) : null;
      return false;
    }
    if (began && Math.hypot(at.x - began.x, at.y - began.y) < MOVED_PX) return true;
    began = null;
    drag.value = { ...drag.value, to: hand.share(page) };
    hand.tryOut(drag.value.kind, drag.value.from, drag.value.to);
    return true;
  }

  function up(): boolean {
    const done = drag.value;
    drag.value = null;
    if (!done) return false;
    dragged = began === null;
    if (dragged) void hand.keep(done.kind, done.from, done.to);
    return true;
  }

  /** A press beside every node lets go of what is picked; not the end of a drag, which the preview may not have caught up with. */
  function click(at: Point): void {
    if (!dragged && onLines(at) && !hand.grid?.near(toPage(stage.view, at), REACH_PX / stage.view.scale)) hand.pick(null, false);
  }

  function doubleClick(at: Point): boolean {
    if (!onLines(at)) return false;
    void hand.keep("add", hand.share(toPage(stage.view, at)));
    return true;
  }

  const keys: Record<string, () => void> = {
    n: () => hand.pickFollowing(1),
    p: () => hand.pickFollowing(-1),
    Delete: () => void hand.act("remove"),
    Backspace: () => void hand.act("remove"),
    Escape: () => hand.pick(null, false),
  };
  const nudges: Record<string, [number, number]> = {
    ArrowLeft: [-NUDGE_MM, 0], ArrowRight: [NUDGE_MM, 0], ArrowUp: [0, -NUDGE_MM], ArrowDown: [0, NUDGE_MM],
  };

  function key(event: KeyboardEvent): boolean {
    if (!hand.active || event.ctrlKey || event.metaKey) return false;
    const step = nudges[event.key];
    if (event.altKey && step && hand.picked.length) {
      const much = event.shiftKey ? 10 : 1;
      void hand.nudge(step[0] * much, step[1] * much);
      return true;
    }
    const action = event.altKey ? undefined : keys[event.key];
    action?.();
    return action !== undefined;
  }

  return { drag, down, move, up, click, doubleClick, key };
}
