import { corners, pulled, turnedTo, type Frame } from "@/core/arrange";
import { movedHandle, movedNode, nearest, withNode, withoutNode, type Handle } from "@/core/drawnNodes";
import type { Point } from "@/core/nodeGrid";
import { toShare } from "@/core/placement";
import { toPage } from "@/core/viewport";
import { useArrange } from "@/stores/arrange";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import { useTools } from "@/stores/tools";

import { CORNER_PX, tabPlace } from "./drawArrange";
import { itemAt, type Hittable } from "./itemAt";

const MOVED_PX = 3;
const REACH_PX = 9;
export const NUDGE_MM = 0.5;

type Grip =
  | { kind: "drag"; from: Point }
  | { kind: "corner"; number: number; frame: Frame }
  | { kind: "turn"; frame: Frame }
  | { kind: "node"; number: number }
  | { kind: "handle"; number: number; handle: Handle };

/** Pointer and keys while items are arranged. Each handler says whether the event was its own. */
export function useArrangePointer(hittable: () => readonly Hittable[]) {
  const arrange = useArrange();
  const job = useJob();
  const stage = useStage();
  const tools = useTools();
  let grip: Grip | null = null;
  let began: Point | null = null;
  let pressed = "";

  const px = (): number => 1 / stage.view.scale;
  const near = (a: Point, b: Point, reach: number): boolean => Math.hypot(a.x - b.x, a.y - b.y) <= reach * px();

  function gripAt(page: Point): Grip | null {
    const [frame] = arrange.scene.picked;
    if (!arrange.scene.handles || !frame) return null;
    const nodes = arrange.shownNodes;
    const own = nodes[arrange.node];
    const handle = own?.handles.findIndex((one) => near(one, page, REACH_PX)) ?? -1;
    if (own && handle >= 0) {
      const item = arrange.only;
      const first = item?.kind === "drawn" ? item.made.nodes[arrange.node] : null;
      const hasIn = Boolean(first && (first.in_x || first.in_y));
      return { kind: "handle", number: arrange.node, handle: handle === 0 && hasIn ? "in" : "out" };
    }
    const number = nodes.findIndex((one) => near(one.place, page, REACH_PX));
    if (number >= 0) return { kind: "node", number };
    if (near(tabPlace(frame, px()), page, REACH_PX + 3)) return { kind: "turn", frame };
    const corner = corners(frame).findIndex((at) => near(at, page, CORNER_PX));
    return corner >= 0 ? { kind: "corner", number: corner, frame } : null;
  }

  function down(at: Point, event: PointerEvent): boolean {
    if (!arrange.active || tools.tool || event.button !== 0) return false;
    const page = toPage(stage.view, at);
    began = at;
    pressed = "";
    grip = gripAt(page);
    if (grip?.kind === "node") arrange.node = grip.number;
    if (!grip) {
      const found = itemAt(page, hittable(), px());
      if (!found) {
        began = null;
        arrange.pick([]);
        return false;
      }
      if (!arrange.pickedIds.includes(found)) arrange.toggle(found, event.shiftKey);
      else pressed = found;
      grip = { kind: "drag", from: page };
    }
    stage.hold();
    return true;
  }

  function move(at: Point, event: PointerEvent): boolean {
    if (!arrange.active || tools.tool) return false;
    const page = toPage(stage.view, at);
    if (!grip) {
      hover(page);
      return false;
    }
    if (began && Math.hypot(at.x - began.x, at.y - began.y) < MOVED_PX) return true;
    began = null;
    if (grip.kind === "drag") arrange.drag({ x: page.x - grip.from.x, y: page.y - grip.from.y }, event.altKey);
    else if (grip.kind === "corner") arrange.hold(pulled(grip.frame, grip.number, page, event.altKey));
    else if (grip.kind === "turn") arrange.hold(turnedTo(grip.frame, page, event.shiftKey));
    else moveNode(grip, page);
    return true;
  }

  function hover(page: Point): void {
    const own = gripAt(page);
    arrange.hoverId = own ? "" : itemAt(page, hittable(), px());
    if (own?.kind === "turn") arrange.cursor = "grab";
    else if (own?.kind === "corner") arrange.cursor = own.number % 2 ? "nesw-resize" : "nwse-resize";
    else arrange.cursor = own || arrange.hoverId ? (own ? "pointer" : "move") : "";
  }

  function moveNode(own: Extract<Grip, { kind: "node" | "handle" }>, page: Point): void {
    const item = arrange.only;
    const shown = item && arrange.resultOf(item.id);
    if (item?.kind !== "drawn" || !shown) return;
    const to = toShare(shown.placement, page);
    arrange.nodes = own.kind === "node" ? movedNode(item.made.nodes, own.number, to) : movedHandle(item.made.nodes, own.number, own.handle, to);
    void job.tryItems({ [item.id]: { made: { nodes: arrange.nodes } } });
  }

  function up(event: PointerEvent): boolean {
    if (!grip) return false;
    const done = grip;
    grip = null;
    if (began) {
      // A click on one of several that are picked picks it alone, or with Shift lets go of it.
      if (pressed) arrange.toggle(pressed, event.shiftKey);
      return true;
    }
    if (done.kind === "drag") void arrange.keep("moved");
    else if (done.kind === "corner") void arrange.keep(event.altKey ? "stretched" : "sized");
    else if (done.kind === "turn") void arrange.keep("turned");
    else void keepNodes();
    return true;
  }

  async function keepNodes(): Promise<void> {
    const [item, nodes] = [arrange.only, arrange.nodes];
    if (item?.kind === "drawn" && nodes) await job.changeItems({ [item.id]: { made: { nodes } } }, "node");
    arrange.nodes = null;
  }

  /** A double click on a drawn line puts a node there; on anything else it does what the stage does. */
  function doubleClick(at: Point): boolean {
    const item = arrange.only;
    const shown = item && arrange.resultOf(item.id);
    if (!arrange.active || item?.kind !== "drawn" || !shown) return arrange.active && arrange.hoverId !== "";
    const found = nearest(item.made.nodes, item.made.closed ?? true, toShare(shown.placement, toPage(stage.view, at)));
    if (found.away > REACH_PX * px()) return false;
    void job.changeItems({ [item.id]: { made: { nodes: withNode(item.made.nodes, found.at, found.t) } } }, "node");
    return true;
  }

  function takeOut(): void {
    const item = arrange.only;
    if (item?.kind === "drawn" && arrange.node >= 0 && item.made.nodes.length > 2) {
      void job.changeItems({ [item.id]: { made: { nodes: withoutNode(item.made.nodes, arrange.node) } } }, "node");
      arrange.node = -1;
      return;
    }
    for (const { id } of [...arrange.picked]) void job.takeOutItem(id);
  }

  const nudges: Record<string, [number, number]> = {
    ArrowLeft: [-NUDGE_MM, 0], ArrowRight: [NUDGE_MM, 0], ArrowUp: [0, -NUDGE_MM], ArrowDown: [0, NUDGE_MM],
  };

  function key(event: KeyboardEvent): boolean {
    if (!arrange.active || event.ctrlKey || event.metaKey || !arrange.pickedIds.length) return false;
    const step = nudges[event.key];
    if (step) {
      const much = event.shiftKey ? 10 : 1;
      void arrange.nudge(step[0] * much, step[1] * much);
      return true;
    }
    if (event.key === "Delete" || event.key === "Backspace") takeOut();
    else if (event.key === "Escape") arrange.pick([]);
    else return false;
    return true;
  }

  return { down, move, up, doubleClick, key };
}
