import { computed, type ComputedRef } from "vue";

import type { CourseSettings, StepKey } from "@/api/types";
import { useJob } from "@/stores/job";

export interface StepControl<K extends StepKey> {
  settings: ComputedRef<CourseSettings[K] | undefined>;
  /** Try a change while the hand moves. */
  move: (change: Partial<CourseSettings[K]>) => void;
  /** Keep a change. */
  settle: (change: Partial<CourseSettings[K]>) => void;
}

/** The settings of one step with the two ways to change them. */
export function useStepControl<K extends StepKey>(step: K): StepControl<K> {
  const job = useJob();
  return {
    settings: computed(() => job.course?.[step]),
    move: (change) => void job.tryOut(step, change),
    settle: (change) => void job.change(step, change),
  };
}
