import { storeToRefs } from "pinia";
import { computed } from "vue";

import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";

import { useStepControl } from "./useStepControl";

const LEAST_MM = 5;
const MOST_MM = 3000;

/** The finished size of the open item with locked proportions. */
export function useSizeControl() {
  const job = useJob();
  const { unit } = storeToRefs(useStage());
  const { settings, move, settle } = useStepControl("picture");
  const width = computed(() => job.itemResult?.size[0] ?? 0);
  const height = computed(() => job.itemResult?.size[1] ?? 0);
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

/** The finished size of the make: of one picture its own, of several that of their page, which makes all larger or smaller. */
export function usePageSize(): ReturnType<typeof useSizeControl> {
  const job = useJob();
  const own = useSizeControl();
  const alone = computed(() => job.items.length === 1);
  const width = computed(() => (alone.value ? own.width.value : (job.result?.width_mm ?? 0)));
  const height = computed(() => (alone.value ? own.height.value : (job.result?.height_mm ?? 0)));
  const setWidth = (mm: number): void => (alone.value ? own.setWidth(mm) : void job.resize(mm));
  return { ...own, width, height, setWidth, setHeight: (mm: number) => setWidth((mm / height.value) * width.value) };
}
