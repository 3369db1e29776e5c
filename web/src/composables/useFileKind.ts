import { computed, ref, type Ref } from "vue";

import { useJob } from "@/stores/job";

export const FILE_KINDS = ["svg", "pdf", "dxf", "dxfcurves", "hpgl", "png"] as const;
export type FileKind = (typeof FILE_KINDS)[number];
const KEPT = "bisectum.file-kinds";
const kinds = ref(JSON.parse(localStorage.getItem(KEPT) ?? "{}") as Record<number, FileKind>);

/** The kind of file that a job is taken out as, remembered for each job; SVG at first. */
export function useFileKind(): Ref<FileKind> {
  const job = useJob();
  return computed({
    get: () => kinds.value[job.kept?.id ?? 0] ?? "svg",
    set: (kind) => {
      kinds.value = { ...kinds.value, [job.kept?.id ?? 0]: kind };
      localStorage.setItem(KEPT, JSON.stringify(kinds.value));
    },
  });
}
