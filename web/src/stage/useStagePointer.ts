import type { Ref } from "vue";

import { useMeasure } from "@/stores/measure";
import { useStage } from "@/stores/stage";
import { useTools } from "@/stores/tools";

import type { Hittable } from "./itemAt";
import { useArrangePointer } from "./useArrangePointer";
import { useCheckPointer } from "./useCheckPointer";
import { useHandPointer } from "./useHandPointer";
import { useMeasurePointer } from "./useMeasurePointer";
import { usePiecesPointer } from "./usePiecesPointer";
import { useStrokesPointer } from "./useStrokesPointer";
import { useToolPointer } from "./useToolPointer";

const KEY_MOVE = 40;
const KEY_SEAM = 0.01;

/** Moving, zooming and the keys of the stage. */
export function useStagePointer(
  host: Ref<HTMLElement | undefined>, hittable: () => readonly Hittable[], corners: () => readonly ArrayLike<number>[],
) {
  const stage = useStage();
  const tools = useTools();
  const measureStore = useMeasure();
  const hand = useHandPointer();
  const tool = useToolPointer();
  const arrange = useArrangePointer(hittable);
  const pieces = usePiecesPointer();
  const strokes = useStrokesPointer();
  const measure = useMeasurePointer(corners);
  const check = useCheckPointer();
  const fingers = new Map<number, { x: number; y: number }>();

  function place(event: MouseEvent): { x: number; y: number } {
    const box = host.value?.getBoundingClientRect();
    return { x: event.clientX - (box?.left ?? 0), y: event.clientY - (box?.top ?? 0) };
  }

  function spread(): { gap: number; middle: { x: number; y: number } } | null {
    const [a, b] = [...fingers.values()];
    if (!a || !b) return null;
    return { gap: Math.hypot(a.x - b.x, a.y - b.y), middle: { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 } };
  }

  function onPointerDown(event: PointerEvent): void {
    if (event.button > 1) return;
    (event.target as Element).setPointerCapture(event.pointerId);
    if (!fingers.size && measure.down(place(event), event)) return;
    if (!fingers.size && tool.down(place(event), event)) return;
    if (!fingers.size && arrange.down(place(event), event)) return;
    if (!fingers.size && pieces.down(place(event), event)) return;
    if (!fingers.size && strokes.down(place(event), event)) return;
    if (!fingers.size && check.down(place(event), event)) return;
    if (!fingers.size && hand.down(place(event), event.shiftKey)) return;
    hand.click(place(event));
    fingers.set(event.pointerId, place(event));
  }

  function onPointerMove(event: PointerEvent): void {
    if (measure.move(place(event), event)) return;
    if (tool.move(place(event), event) || arrange.move(place(event), event) || pieces.move(place(event)) || strokes.move(place(event)) || hand.move(place(event))) return;
    const before = fingers.get(event.pointerId);
    if (!before) return;
    const now = place(event);
    const was = spread();
    fingers.set(event.pointerId, now);
    const is = spread();
    if (was && is) {
      stage.zoom(is.gap / Math.max(1, was.gap), is.middle);
      stage.move(is.middle.x - was.middle.x, is.middle.y - was.middle.y);
    } else {
      stage.move(now.x - before.x, now.y - before.y);
    }
  }

  function onPointerUp(event: PointerEvent): void {
    if (tool.up(event) || arrange.up(event) || pieces.up(event) || hand.up()) return;
    fingers.delete(event.pointerId);
  }

  function onPointerLeave(): void {
    tool.leave();
    pieces.leave();
  }

  function onWheel(event: WheelEvent): void {
    stage.zoom(Math.exp(-event.deltaY * (event.deltaMode === 1 ? 0.05 : 0.0016)), place(event));
  }

  const keys: Record<string, () => void> = {
    ArrowLeft: () => stage.move(KEY_MOVE, 0),
    ArrowRight: () => stage.move(-KEY_MOVE, 0),
    ArrowUp: () => stage.move(0, KEY_MOVE),
    ArrowDown: () => stage.move(0, -KEY_MOVE),
    "+": () => stage.zoom(1.25),
    "=": () => stage.zoom(1.25),
    "-": () => stage.zoom(0.8),
    Home: () => stage.showAll(),
    "[": () => stage.setSeam(stage.seam - KEY_SEAM),
    "]": () => stage.setSeam(stage.seam + KEY_SEAM),
    t: () => stage.turnSeam(),
  };

  function onDoubleClick(event: MouseEvent): void {
    if (!measureStore.active && !tools.tool && !arrange.doubleClick(place(event)) && !pieces.doubleClick(place(event)) && !strokes.doubleClick(place(event)) && !hand.doubleClick(place(event))) stage.showAll();
  }

  function onKey(event: KeyboardEvent): void {
    if (measure.key(event) || tool.key(event) || arrange.key(event) || pieces.key(event) || strokes.key(event) || check.key(event) || hand.key(event)) {
      event.preventDefault();
      return;
    }
    const action = event.ctrlKey || event.metaKey || event.altKey ? undefined : keys[event.key];
    if (!action) return;
    event.preventDefault();
    action();
  }

  return { drag: hand.drag, onPointerDown, onPointerMove, onPointerUp, onPointerLeave, onDoubleClick, onWheel, onKey };
}
