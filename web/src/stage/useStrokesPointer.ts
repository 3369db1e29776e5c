import type { Point } from "@/core/nodeGrid";
import { toPage } from "@/core/viewport";
import { useStage } from "@/stores/stage";
import { useStrokes } from "@/stores/strokes";
import { useTools } from "@/stores/tools";

const REACH_PX = 9;
const ROLE_KEYS = { c: "cut", s: "score", d: "draw", Delete: "leave", Backspace: "leave" } as const;

/** Pointer and keys while it is said what strokes are. Each handler says whether the event was its own. */
export function useStrokesPointer() {
  const strokes = useStrokes();
  const stage = useStage();
  const tools = useTools();
  const at = (place: Point): number => strokes.at(toPage(stage.view, place), REACH_PX / stage.view.scale);

  function down(place: Point, event: PointerEvent): boolean {
    if (!strokes.active || tools.tool || event.button !== 0) return false;
    const found = at(place);
    strokes.pick(found, event.shiftKey);
    return found >= 0;
  }

  function move(place: Point): boolean {
    if (strokes.active && !tools.tool) strokes.hover = at(place);
    return false;
  }

  function doubleClick(place: Point): boolean {
    return strokes.active && at(place) >= 0;
  }

  function key(event: KeyboardEvent): boolean {
    if (!strokes.active || event.ctrlKey || event.metaKey || event.altKey) return false;
    if (event.key in ROLE_KEYS && strokes.picked.length) void strokes.become(ROLE_KEYS[event.key as keyof typeof ROLE_KEYS]);
    else if (event.key === "Escape" && strokes.picked.length) strokes.pick(-1, false);
    else if (event.key === "n" || event.key === "p") strokes.pickFollowing(event.key === "n" ? 1 : -1);
    else return false;
    return true;
  }

  return { down, move, doubleClick, key };
}
