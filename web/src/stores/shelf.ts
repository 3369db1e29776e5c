import { defineStore } from "pinia";
import { ref } from "vue";

import { ApiError } from "@/api/client";
import { bringIn, bringInAnother, deleteJob, getShelf } from "@/api/jobs";
import type { Job, JobSummary } from "@/api/types";

export const useShelf = defineStore("shelf", () => {
  const jobs = ref<JobSummary[]>([]);
  const loaded = ref(false);
  /** Bytes given back to the disk since the start. */
  const freed = ref(0);
  const bringing = ref<string | null>(null);
  const error = ref<ApiError | null>(null);

  async function attempt<T>(work: () => Promise<T>): Promise<T | undefined> {
    error.value = null;
    try {
      return await work();
    } catch (reason) {
      error.value = reason instanceof ApiError ? reason : new ApiError("defect", String(reason));
      return undefined;
    }
  }

  async function load(): Promise<void> {
    const found = await attempt(getShelf);
    if (found) {
      jobs.value = found.jobs;
      freed.value = found.freed_bytes;
    }
    loaded.value = true;
  }

  /** Look again, without a word where nobody answers: small pictures of jobs that were just brought in come a little later. */
  async function lookAgain(): Promise<void> {
    const found = await getShelf().catch(() => null);
    if (found) jobs.value = found.jobs;
  }

  /** Bring in pictures one after the other. Returns the job of the last that could be read. */
  async function bring(files: Iterable<File>): Promise<Job | undefined> {
    let last: Job | undefined;
    let refused: ApiError | null = null;
    for (const file of files) {
      bringing.value = file.name;
      last = (await attempt(() => bringIn(file))) ?? last;
      refused = error.value ?? refused;
    }
    bringing.value = null;
    await load();
    error.value = refused;
    return last;
  }

  /** One job of several pictures. Returns it where at least one could be read. */
  async function bringTogether(files: readonly File[]): Promise<Job | undefined> {
    let job: Job | undefined;
    let refused: ApiError | null = null;
    for (const file of files) {
      bringing.value = file.name;
      const before: Job | undefined = job;
      job = (await attempt(() => (before ? bringInAnother(before.id, before.revision, file) : bringIn(file)))) ?? before;
      refused = error.value ?? refused;
    }
    bringing.value = null;
    await load();
    error.value = refused;
    return job;
  }

  async function remove(id: number): Promise<void> {
    await attempt(() => deleteJob(id));
    await load();
  }

  return { jobs, loaded, freed, bringing, error, load, lookAgain, bring, bringTogether, remove };
});
