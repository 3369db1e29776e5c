import { onScopeDispose, watch, type Ref } from "vue";

import type { Point } from "@/core/nodeGrid";

interface Pinching {
  zoom: (factor: number, at: Point) => void;
  move: (dx: number, dy: number) => void;
  /** What the first finger was about to do is over. */
  begin?: () => void;
}

/** Two fingers move and stretch what is in the host, whatever one finger does there: others hear nothing of them. */
export function usePinch(host: Ref<HTMLElement | undefined>, { zoom, move, begin }: Pinching): void {
  const fingers = new Map<number, Point>();
  /** From the second finger on until all are up. */
  let pinching = false;

  function spread(): { gap: number; middle: Point } | null {
    const [a, b] = [...fingers.values()];
    return a && b ? { gap: Math.hypot(a.x - b.x, a.y - b.y), middle: { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 } } : null;
  }
  function place(event: PointerEvent): Point {
    const box = host.value?.getBoundingClientRect();
    return { x: event.clientX - (box?.left ?? 0), y: event.clientY - (box?.top ?? 0) };
  }
  function onDown(event: PointerEvent): void {
    if (event.pointerType !== "touch") return;
    const first = fingers.keys().next();
    fingers.set(event.pointerId, place(event));
    if (fingers.size < 2) return;
    if (!pinching && !first.done) {
      begin?.();
      event.target?.dispatchEvent(new PointerEvent("pointercancel", { pointerId: first.value, bubbles: true }));
    }
    pinching = true;
    event.stopPropagation();
  }
  function onMove(event: PointerEvent): void {
    if (!fingers.has(event.pointerId)) return;
    const was = spread();
    fingers.set(event.pointerId, place(event));
    const is = spread();
    if (!pinching) return;
    event.stopPropagation();
    if (!was || !is) return;
    zoom(is.gap / Math.max(1, was.gap), is.middle);
    move(is.middle.x - was.middle.x, is.middle.y - was.middle.y);
  }
  function onUp(event: PointerEvent): void {
    // What is dispatched by hand ends the first finger's use; the finger itself is still there.
    if (!event.isTrusted || !fingers.delete(event.pointerId)) return;
    if (pinching) event.stopPropagation();
    pinching = pinching && fingers.size > 0;
  }
  const listeners = [["pointerdown", onDown], ["pointermove", onMove], ["pointerup", onUp], ["pointercancel", onUp]] as const;
  const listen = (to: HTMLElement | undefined, on: boolean): void =>
    listeners.forEach(([name, listener]) => (on ? to?.addEventListener(name, listener, true) : to?.removeEventListener(name, listener, true)));
  watch(host, (now, before) => {
    listen(before, false);
    listen(now, true);
  }, { immediate: true });
  onScopeDispose(() => listen(host.value, false));
}
