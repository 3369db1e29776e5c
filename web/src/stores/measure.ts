import { defineStore } from "pinia";
import { computed, ref, shallowRef, watch } from "vue";

import { angle, distance } from "@/core/measure";
import type { Point } from "@/core/nodeGrid";

import { useJob } from "./job";

/** The rule in the hand: two places on the page, and what lies between them. */
export const useMeasure = defineStore("measure", () => {
  const job = useJob();
  const active = ref(false);
  /** mm of the page. */
  const ends = shallowRef<Point[]>([]);
  const hover = shallowRef<Point | null>(null);
  const shown = computed<Point[]>(() => (ends.value.length === 1 && hover.value ? [...ends.value, hover.value] : ends.value));
  const length = computed(() => (shown.value.length === 2 ? distance(shown.value[0] as Point, shown.value[1] as Point) : 0));
  const degrees = computed(() => (shown.value.length === 2 ? angle(shown.value[0] as Point, shown.value[1] as Point) : 0));

  function toggle(): void {
    active.value = !active.value;
    ends.value = [];
    hover.value = null;
  }
  function put(place: Point): void {
    ends.value = ends.value.length === 1 ? [...ends.value, place] : [place];
  }
  // The page grows with what is on it, and so does what was measured.
  watch(
    () => job.result?.width_mm,
    (now, before) => {
      if (now && before && ends.value.length) ends.value = ends.value.map(({ x, y }) => ({ x: (x * now) / before, y: (y * now) / before }));
    },
  );
  watch(() => job.job?.id, () => active.value && toggle());

  return { active, ends, hover, shown, length, degrees, toggle, put };
});
