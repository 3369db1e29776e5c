import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";

import { ApiError } from "@/api/client";
import { changeStep, getJob, getResult, previewStep, redoJob, renameJob, stopJob, undoJob } from "@/api/jobs";
import type { CourseSettings, Job, Result, StepKey } from "@/api/types";
import { Latest } from "@/core/latest";
import { Pace } from "@/core/pace";

export type WorkState = "idle" | "working" | "stopped" | "failed";

/** The job on the bench: its settings as kept, and the result shown, which may be a preview. */
export const useJob = defineStore("job", () => {
  const job = shallowRef<Job | null>(null);
  const result = shallowRef<Result | null>(null);
  const work = ref<WorkState>("idle");
  const fraction = ref(0);
  const error = shallowRef<ApiError | null>(null);
  const full = new Latest();
  const preview = new Latest();
  const pace = new Pace();

  const course = computed<CourseSettings | null>(() => job.value?.document.items[0]?.course ?? null);

  function fail(reason: unknown): void {
    error.value = reason instanceof ApiError ? reason : new ApiError("defect", String(reason));
  }

  async function open(id: number): Promise<void> {
    full.cancel();
    endPreview();
    job.value = null;
    result.value = null;
    error.value = null;
    try {
      job.value = await getJob(id);
      await workOut();
    } catch (reason) {
      fail(reason);
    }
  }

  /** Get the full result of the job as it stands. */
  async function workOut(): Promise<void> {
    if (!job.value) return;
    const id = job.value.id;
    work.value = "working";
    fraction.value = 0;
    try {
      const found = await full.run(() => getResult(id));
      if (!found) return;
      result.value = found;
      error.value = null;
      work.value = "idle";
    } catch (reason) {
      const code = reason instanceof ApiError ? reason.code : "";
      if (code === "superseded") return;
      work.value = code === "cancelled" ? "stopped" : "failed";
      if (code !== "cancelled") fail(reason);
    }
  }

  /** Show what a change would give, while the hand still moves. */
  async function tryOut(step: StepKey, settings: object): Promise<void> {
    await pace.run(() => showPreview(step, settings));
  }

  async function showPreview(step: StepKey, settings: object): Promise<void> {
    if (!job.value) return;
    const id = job.value.id;
    try {
      const found = await preview.run((signal) => previewStep(id, step, settings, signal));
      if (found) {
        result.value = found;
        error.value = null;
      }
    } catch (reason) {
      if (reason instanceof ApiError && ["superseded", "cancelled", "aborted"].includes(reason.code)) return;
      fail(reason);
    }
  }

  function endPreview(): void {
    pace.drop();
    preview.cancel();
  }

  async function moved(change: () => Promise<Job>): Promise<void> {
    endPreview();
    const id = job.value?.id;
    let now: Job;
    try {
      now = await change();
    } catch (reason) {
      if (!(reason instanceof ApiError && reason.code === "job_moved_on" && id !== undefined)) {
        if (job.value?.id === id) fail(reason);
        return;
      }
      now = await getJob(id);
    }
    if (job.value?.id !== id) return; // it was left meanwhile, and another one may lie on the bench
    job.value = now;
    error.value = null;
    await workOut();
  }

  /** Keep a change as one step of the history. */
  async function change(step: StepKey, settings: object): Promise<void> {
    const now = job.value;
    if (now) await moved(() => changeStep(now.id, now.revision, step, settings));
  }

  async function rename(name: string): Promise<void> {
    const now = job.value;
    if (now && name.trim() !== now.document.name) await moved(() => renameJob(now.id, now.revision, name));
  }

  async function undo(): Promise<void> {
    const now = job.value;
    if (now?.undo) await moved(() => undoJob(now.id));
  }

  async function redo(): Promise<void> {
    const now = job.value;
    if (now?.redo) await moved(() => redoJob(now.id));
  }

  async function stop(): Promise<void> {
    if (job.value) await stopJob(job.value.id);
  }

  function close(): void {
    full.cancel();
    endPreview();
    job.value = null;
    result.value = null;
  }

  return { job, result, course, work, fraction, error, open, workOut, tryOut, change, rename, undo, redo, stop, close };
});
