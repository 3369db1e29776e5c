import type { Point } from "@/core/nodeGrid";
import { toPage } from "@/core/viewport";
import { useHand } from "@/stores/hand";
import { useStage } from "@/stores/stage";
import { useTools } from "@/stores/tools";

const LEAST_PX = 4; // a smaller box is a slip of the hand
const STEP_PX = 2; // between two points of a stroke

/** Pointer of the tool in hand. Each handler says whether the event was its own. */
export function useToolPointer() {
  const tools = useTools();
  const stage = useStage();
  const hand = useHand();
  let pressures: number[] = [];
  let last: Point = { x: 0, y: 0 };

  const share = (at: Point): Point => hand.share(toPage(stage.view, at));

  function down(at: Point, event: PointerEvent): boolean {
    const tool = tools.tool;
    if (!tool || event.button !== 0) return false;
    stage.hold();
    const here = share(at);
    last = at;
    pressures = [event.pressure || 0.5];
    tools.path = tool.kind === "box" ? [here, here] : [here];
    tools.pressing = true;
    return true;
  }

  function move(at: Point, event: PointerEvent): boolean {
    const tool = tools.tool;
    if (!tool) return false;
    if (!tools.pressing) {
      tool.hover?.(share(at), event.shiftKey);
      return false;
    }
    const first = tools.path[0];
    if (!first) return true;
    if (tool.kind === "box" || (tool.kind === "stroke" && event.shiftKey)) {
      tools.path = [first, share(at)];
      pressures = [pressures[0] ?? 0.5, event.pressure || 0.5];
    } else if (tool.kind === "stroke" && Math.hypot(at.x - last.x, at.y - last.y) >= STEP_PX) {
      tools.path = [...tools.path, share(at)];
      pressures.push(event.pressure || 0.5);
      last = at;
    }
    return true;
  }

  function up(event: PointerEvent): boolean {
    const tool = tools.tool;
    if (!tool || !tools.pressing) return false;
    const points = tools.path;
    tools.pressing = false;
    tools.path = [];
    const [one, other] = points;
    const px = stage.view.scale * hand.pageWidth;
    if (tool.kind === "box" && (!one || !other || Math.min(Math.abs(one.x - other.x), Math.abs(one.y - other.y)) * px < LEAST_PX)) {
      return true;
    }
    tool.done({ points, pressures, shift: event.shiftKey });
    return true;
  }

  function leave(): void {
    tools.tool?.hover?.(null, false);
  }

  /** Escape drops a use under way, then the tool itself. */
  function key(event: KeyboardEvent): boolean {
    if (event.key !== "Escape" || !tools.tool) return false;
    if (!drop()) tools.take(null);
    return true;
  }

  /** Drop a use under way. Returns whether there was one. */
  function drop(): boolean {
    const had = tools.pressing;
    tools.pressing = false;
    tools.path = [];
    return had;
  }

  return { down, move, up, leave, key, drop };
}
