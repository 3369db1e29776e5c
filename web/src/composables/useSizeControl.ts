import { storeToRefs } from "pinia";
import { computed } from "vue";

import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";

import { useStepControl } from "./useStepControl";

const LEAST_MM = 5;
const MOST_MM = 3000;

/** The finished size with locked proportions. */
export function useSizeControl() {
  const job = useJob();
  const { unit } = storeToRefs(useStage());
  const { settings, move, settle } = useStepControl("picture");
  const width = computed(() => job.result?.width_mm ?? 0);
  const height = computed(() => job.result?.height_mm ?? 0);
  const bounded = (mm: number): number => Math.min(MOST_MM, Math.max(LEAST_MM, Math.round(mm * 1000) / 1000));
  return {
    width,
    height,
    unit,
    measured: computed(() => settings.value?.measured ?? "artwork"),
    isNatural: computed(() => settings.value?.width_mm == null),
    tryWidth: (mm: number) => move({ width_mm: bounded(mm) }),
    setWidth: (mm: number) => settle({ width_mm: bounded(mm) }),
    setHeight: (mm: number) => settle({ width_mm: bounded((mm / height.value) * width.value) }),
    setMeasured: (measured: "artwork" | "picture") => settle({ measured }),
    setNatural: () => settle({ width_mm: null }),
  };
}
