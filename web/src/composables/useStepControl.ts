import { computed, type ComputedRef } from "vue";

import type { CourseSettings, MakeSettings, MakeStepKey, StepKey } from "@/api/types";
import { useJob } from "@/stores/job";

export interface Control<S> {
  settings: ComputedRef<S | undefined>;
  /** Try a change while the hand moves. */
  move: (change: Partial<S>) => void;
  /** Keep a change. */
  settle: (change: Partial<S>) => void;
}

/** The settings of one step of the open item with the two ways to change them. */
export function useStepControl<K extends StepKey>(step: K): Control<CourseSettings[K]> {
  const job = useJob();
  return {
    settings: computed(() => job.course?.[step]),
    move: (change) => void job.tryOut(step, change),
    settle: (change) => void job.change(step, change),
  };
}

/** The same for a step of the make. */
export function useMakeControl<K extends MakeStepKey>(step: K): Control<MakeSettings[K]> {
  const job = useJob();
  return {
    settings: computed(() => job.make?.[step]),
    move: (change) => void job.tryOutMake(step, change),
    settle: (change) => void job.changeMake(step, change),
  };
}
