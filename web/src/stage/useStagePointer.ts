import type { Ref } from "vue";

import { useMeasure } from "@/stores/measure";
import { useStage } from "@/stores/stage";
import { useTools } from "@/stores/tools";

import type { Hittable } from "./itemAt";
import { useArrangePointer } from "./useArrangePointer";
import { useCheckPointer } from "./useCheckPointer";
import { useHandPointer } from "./useHandPointer";
import { useKeyCursor } from "./useKeyCursor";
import { useMeasurePointer } from "./useMeasurePointer";
import { usePiecesPointer } from "./usePiecesPointer";
import { usePinch } from "./usePinch";
import { useStrokesPointer } from "./useStrokesPointer";
import { useToolPointer } from "./useToolPointer";

const KEY_MOVE = 40;
const KEY_SEAM = 0.01;

/** Moving, zooming and the keys of the stage. */
export function useStagePointer(
  host: Ref<HTMLElement | undefined>, canvas: Ref<HTMLCanvasElement | undefined>, hittable: () => readonly Hittable[], corners: () => readonly ArrayLike<number>[],
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
  const cursor = useKeyCursor(canvas);
  /** The pointer that moves the stage, and where it was. */
  let held: { id: number; at: { x: number; y: number } } | null = null;
  usePinch(host, { zoom: stage.zoom, move: stage.move, begin: tool.drop });

  function place(event: MouseEvent): { x: number; y: number } {
    const box = host.value?.getBoundingClientRect();
    return { x: event.clientX - (box?.left ?? 0), y: event.clientY - (box?.top ?? 0) };
  }

  function onPointerDown(event: PointerEvent): void {
    if (event.button > 1) return;
    if (event.isTrusted) (event.target as Element).setPointerCapture(event.pointerId);
    const at = place(event);
    if (measure.down(at, event) || tool.down(at, event) || arrange.down(at, event) || pieces.down(at, event)) return;
    if (strokes.down(at, event) || check.down(at, event) || hand.down(at, event.shiftKey)) return;
    hand.click(at);
    held = { id: event.pointerId, at };
  }

  function onPointerMove(event: PointerEvent): void {
    const at = place(event);
    if (measure.move(at, event) || tool.move(at, event) || arrange.move(at, event)) return;
    if (pieces.move(at) || strokes.move(at) || hand.move(at) || held?.id !== event.pointerId) return;
    stage.move(at.x - held.at.x, at.y - held.at.y);
    held = { id: held.id, at };
  }

  function onPointerUp(event: PointerEvent): void {
    if (tool.up(event) || arrange.up(event) || pieces.up(event) || hand.up()) return;
    held = null;
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
    if (cursor.key(event) || measure.key(event) || tool.key(event) || arrange.key(event) || pieces.key(event) || strokes.key(event) || check.key(event) || hand.key(event)) {
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
