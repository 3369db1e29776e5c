import type { Point } from "@/core/nodeGrid";
import { toPage } from "@/core/viewport";
import { useCheck } from "@/stores/check";
import { useStage } from "@/stores/stage";

const REACH_PX = 14;

/** Pointer and keys while findings of the cut check are looked at. Each handler says whether the event was its own. */
export function useCheckPointer() {
  const check = useCheck();
  const stage = useStage();

  function down(place: Point, event: PointerEvent): boolean {
    if (!check.active || event.button !== 0) return false;
    const found = check.at(toPage(stage.view, place), REACH_PX / stage.view.scale);
    if (found < 0) return false;
    check.pick(found);
    return true;
  }

  function key(event: KeyboardEvent): boolean {
    if (!check.active || event.key !== "Escape" || check.picked < 0) return false;
    check.pick(-1);
    return true;
  }

  return { down, key };
}
