import { snapped } from "@/core/measure";
import type { Point } from "@/core/nodeGrid";
import { toPage } from "@/core/viewport";
import { useMeasure } from "@/stores/measure";
import { useStage } from "@/stores/stage";

const REACH_PX = 10;

/** Pointer and keys while something is measured. corners: places that ends snap to, x and y one after the other, mm of the page. */
export function useMeasurePointer(corners: () => readonly ArrayLike<number>[]) {
  const measure = useMeasure();
  const stage = useStage();
  const at = (place: Point): Point => snapped(toPage(stage.view, place), corners(), REACH_PX / stage.view.scale);

  function down(place: Point, event: PointerEvent): boolean {
    if (!measure.active || event.button !== 0) return false;
    measure.put(at(place));
    return true;
  }
  function move(place: Point, event: PointerEvent): boolean {
    if (!measure.active) return false;
    measure.hover = at(place);
    return event.buttons === 1;
  }
  function key(event: KeyboardEvent): boolean {
    if (event.ctrlKey || event.metaKey || event.altKey || !(event.key === "m" || (event.key === "Escape" && measure.active))) return false;
    measure.toggle();
    return true;
  }
  return { down, move, key };
}
