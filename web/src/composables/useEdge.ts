import { shallowRef, watch, type Ref, type ShallowRef } from "vue";

import { cutEdge } from "@/api/jobs";
import type { Bar } from "@/api/types";

/** The bars under the seam; asks anew as it moves, one question at a time. */
export function useEdge(key: Ref<string | undefined>, axis: Ref<"x" | "y">, at: Ref<number>): ShallowRef<Bar[]> {
  const bars = shallowRef<Bar[]>([]);
  let asking = false;
  let again = false;

  async function ask(): Promise<void> {
    if (asking) {
      again = true;
      return;
    }
    asking = true;
    do {
      again = false;
      if (!key.value || !Number.isFinite(at.value)) break;
      try {
        bars.value = await cutEdge(key.value, axis.value, at.value);
      } catch {
        // The result has just been replaced; the next key asks again.
      }
    } while (again);
    asking = false;
  }

  watch([key, axis, at], ask, { immediate: true });
  return bars;
}
