import type { Ref } from "vue";

import { toPage } from "@/core/viewport";
import { useStage } from "@/stores/stage";

const STEP_MM = 1;
const TIMES = 10; // with Shift
const KEY_POINTER = 9_999; // no finger has this number
const WAYS: Readonly<Record<string, readonly [number, number]>> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** A pointer that is moved by keys: whatever is done on the stage by hand can be done with it. It speaks to the stage by the
 * events of a pointer, so that no tool needs to know. */
export function useKeyCursor(canvas: Ref<HTMLCanvasElement | undefined>) {
  const stage = useStage();
  /** Whether it presses, from one Enter to the next. */
  let pressed = false;

  function fire(type: "pointerdown" | "pointermove" | "pointerup" | "dblclick", shiftKey: boolean): void {
    const [to, place] = [canvas.value, stage.cursor];
    if (!to || !place) return;
    const { left, top } = to.getBoundingClientRect();
    const { scale, x, y } = stage.view;
    const where = { clientX: left + place.x * scale + x, clientY: top + place.y * scale + y, shiftKey, button: 0, buttons: pressed ? 1 : 0 };
    to.dispatchEvent(type === "dblclick" ? new MouseEvent(type, where) : new PointerEvent(type, { ...where, pointerId: KEY_POINTER, pressure: 0.5 }));
  }

  function put(): void {
    const { width, height } = stage.size;
    stage.cursor = toPage(stage.view, { x: width / 2, y: height / 2 });
    stage.hold();
    fire("pointermove", false);
  }
  function takeAway(): void {
    if (pressed) letGo(false);
    stage.cursor = null;
    canvas.value?.dispatchEvent(new PointerEvent("pointerleave"));
  }
  function letGo(shift: boolean): void {
    pressed = false;
    fire("pointerup", shift);
  }
  function press(shift: boolean): void {
    pressed = true;
    fire("pointerdown", shift);
  }
  function click(shift: boolean): void {
    if (!pressed) press(shift);
    letGo(shift);
  }

  function move([dx, dy]: readonly [number, number], event: KeyboardEvent): void {
    if (!stage.cursor) return;
    const step = (event.altKey ? 1 / stage.view.scale : STEP_MM) * (event.shiftKey ? TIMES : 1);
    stage.cursor = { x: stage.cursor.x + dx * step, y: stage.cursor.y + dy * step };
    stage.lookAt(stage.cursor);
    fire("pointermove", false);
  }

  /** Whether a key was meant for it. */
  function key(event: KeyboardEvent): boolean {
    if (event.ctrlKey || event.metaKey) return false;
    if (event.key === "c" && !event.altKey) {
      if (stage.cursor) takeAway();
      else put();
      return true;
    }
    if (!stage.cursor) return false;
    const way = WAYS[event.key];
    if (way) move(way, event);
    else if (event.key === " ") click(event.shiftKey);
    else if (event.key === "Enter" && pressed) letGo(event.shiftKey);
    else if (event.key === "Enter") press(event.shiftKey);
    else if (event.key === "d") fire("dblclick", event.shiftKey);
    else return false;
    return true;
  }

  return { key };
}
