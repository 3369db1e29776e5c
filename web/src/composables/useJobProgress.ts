import { onScopeDispose, watch, type Ref } from "vue";

import { progressUrl } from "@/api/jobs";

export interface Progress {
  state: "working" | "done" | "failed" | "gone";
  fraction: number;
  /** The step that is being worked out, "" where it is none. */
  what: string;
  /** How often the job has moved along its history. */
  moves: number;
}

/** Listen to how far the work on a job is. */
export function useJobProgress(jobId: Ref<number | undefined>, onProgress: (progress: Progress) => void): void {
  let source: EventSource | null = null;
  watch(
    jobId,
    (id) => {
      source?.close();
      source = null;
      if (id === undefined) return;
      source = new EventSource(progressUrl(id));
      source.onmessage = (event) => onProgress(JSON.parse(event.data as string) as Progress);
    },
    { immediate: true },
  );
  onScopeDispose(() => source?.close());
}
