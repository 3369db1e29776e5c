/** A canvas with something on it that one moves about on and looks at closer: its view, and what changes that. */

import { computed, ref, watch, type ComputedRef, type Ref } from "vue";

import type { Point } from "@/core/nodeGrid";
import { fit, pan, zoomAt, type Size, type Viewport } from "@/core/viewport";

import { usePinch } from "./usePinch";

export interface Board {
  view: Ref<Viewport>;
  /** Whether the view is somebody's own. */
  touched: Ref<boolean>;
  fitted: ComputedRef<Viewport>;
  /** Where a pointer is, px of the canvas. */
  at: (event: MouseEvent) => Point;
  zoom: (factor: number, place?: Point) => void;
  move: (dx: number, dy: number) => void;
  showAll: () => void;
  onWheel: (event: WheelEvent) => void;
}

interface Fitting {
  host: Ref<HTMLElement | undefined>;
  /** The canvas, px. */
  size: Ref<Size>;
  /** What lies on it, mm. */
  whole: () => { x: number; y: number; width: number; height: number };
  /** Room around it, px. */
  margin: number;
  /** What lies over the lower edge, px. */
  foot?: number;
}

export function useBoard({ host, size, whole, margin, foot = 0 }: Fitting): Board {
  const view = ref<Viewport>({ scale: 1, x: 0, y: 0 });
  const touched = ref(false);
  const fitted = computed(() => fit(whole(), { width: size.value.width, height: size.value.height - foot }, margin));
  watch(fitted, (now) => {
    if (!touched.value && size.value.width) view.value = now;
  });

  function at(event: MouseEvent): Point {
    const box = host.value?.getBoundingClientRect();
    return { x: event.clientX - (box?.left ?? 0), y: event.clientY - (box?.top ?? 0) };
  }
  function zoom(factor: number, place: Point = { x: size.value.width / 2, y: size.value.height / 2 }): void {
    touched.value = true;
    view.value = zoomAt(view.value, factor, place, fitted.value.scale);
  }
  function move(dx: number, dy: number): void {
    touched.value = true;
    view.value = pan(view.value, dx, dy);
  }
  function showAll(): void {
    touched.value = false;
    view.value = fitted.value;
  }
  const onWheel = (event: WheelEvent): void => zoom(Math.exp(-event.deltaY * (event.deltaMode === 1 ? 0.05 : 0.0016)), at(event));

  usePinch(host, { zoom, move });

  return { view, touched, fitted, at, zoom, move, showAll, onWheel };
}
