import type { Point } from "@/core/nodeGrid";
import { toPage } from "@/core/viewport";
import { NUDGE_MM, usePieces } from "@/stores/pieces";
import { useStage } from "@/stores/stage";
import { useTools } from "@/stores/tools";

const MOVED_PX = 4;
const REACH_PX = 9;

/** Pointer and keys while pieces are put right. Each handler says whether the event was its own. */
export function usePiecesPointer() {
  const pieces = usePieces();
  const stage = useStage();
  const tools = useTools();
  let began: Point | null = null;
  let held = -1;
  let wasPicked = false;
  let pulling = false;

  /** The bridge whose end lies at a place of the page: its other end first. */
  function bridgeAt(page: Point): [Point, Point] | null {
    const near = (one: Point): boolean => Math.hypot(one.x - page.x, one.y - page.y) <= REACH_PX / stage.view.scale;
    for (const [one, other] of pieces.bridges) {
      if (near(one)) return [other, one];
      if (near(other)) return [one, other];
    }
    return null;
  }

  function down(at: Point, event: PointerEvent): boolean {
    if (!pieces.active || tools.tool || event.button !== 0) return false;
    const grip = bridgeAt(toPage(stage.view, at));
    if (grip) {
      pulling = true;
      pieces.pulled = grip;
      stage.hold();
      return true;
    }
    held = pieces.at(toPage(stage.view, at));
    if (held < 0) {
      pieces.pick(-1, event.shiftKey);
      return false;
    }
    wasPicked = pieces.picked.includes(held);
    began = at;
    if (!wasPicked) return true; // a drag from here moves the stage, as everywhere
    stage.hold();
    return true;
  }

  function move(at: Point): boolean {
    if (!pieces.active || tools.tool) return false;
    if (pulling && pieces.pulled) {
      pieces.pulled = [pieces.pulled[0], toPage(stage.view, at)];
      return true;
    }
    if (!began) {
      pieces.hover = pieces.at(toPage(stage.view, at));
      return false;
    }
    const [dx, dy] = [at.x - began.x, at.y - began.y];
    if (Math.hypot(dx, dy) < MOVED_PX && !pieces.moving) return true;
    if (wasPicked) pieces.moving = { x: dx / stage.view.scale, y: dy / stage.view.scale };
    else {
      stage.move(dx, dy);
      began = at;
      held = -1;
    }
    return true;
  }

  function up(event: PointerEvent): boolean {
    if (pulling) {
      pulling = false;
      void pieces.keepPulled();
      return true;
    }
    if (!began) return false;
    began = null;
    if (pieces.moving) void pieces.moveBy(pieces.moving);
    else if (held >= 0) pieces.pick(held, event.shiftKey);
    return true;
  }

  /** A second click on a piece says no more than the first. */
  function doubleClick(at: Point): boolean {
    return pieces.active && !tools.tool && pieces.at(toPage(stage.view, at)) >= 0;
  }

  function leave(): void {
    pieces.hover = -1;
  }

  const nudges: Record<string, [number, number]> = {
    ArrowLeft: [-NUDGE_MM, 0], ArrowRight: [NUDGE_MM, 0], ArrowUp: [0, -NUDGE_MM], ArrowDown: [0, NUDGE_MM],
  };

  function key(event: KeyboardEvent): boolean {
    if (!pieces.active || event.ctrlKey || event.metaKey) return false;
    const step = nudges[event.key];
    if (step && pieces.picked.length && event.altKey) {
      const much = event.shiftKey ? 10 : 1;
      void pieces.moveBy({ x: step[0] * much, y: step[1] * much });
    } else if ((event.key === "Delete" || event.key === "Backspace") && pieces.picked.length) void pieces.drop("around");
    else if (event.key === "Escape" && pieces.picked.length) pieces.pick(-1, false);
    else if (event.key === "n" || event.key === "p") pieces.pickFollowing(event.key === "n" ? 1 : -1);
    else return false;
    return true;
  }

  return { down, move, up, doubleClick, leave, key };
}
