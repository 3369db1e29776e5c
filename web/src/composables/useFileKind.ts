import { ref, watch, type Ref } from "vue";

export const FILE_KINDS = ["svg", "pdf", "dxf", "dxfcurves", "hpgl", "png"] as const;
export type FileKind = (typeof FILE_KINDS)[number];
const KEPT = "bisectum.file-kind";
const kept = localStorage.getItem(KEPT) as FileKind | null;
const kind = ref<FileKind>(kept && FILE_KINDS.includes(kept) ? kept : "svg");
watch(kind, (value) => localStorage.setItem(KEPT, value));

/** The kind of file that the person's machine takes, remembered from job to job. */
export function useFileKind(): Ref<FileKind> {
  return kind;
}
