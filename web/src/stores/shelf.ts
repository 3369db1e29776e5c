import { defineStore } from "pinia";
import { ref } from "vue";

import { ApiError } from "@/api/client";
import { bringIn, bringInAnother, deleteJob, getJob, getShelf, renaming, sendChange } from "@/api/jobs";
import { bringBack, copyJob, getDamage, getSamples, getThrown, lookThrough as askToLook, tagJobs, throwJobs, trySample } from "@/api/shelf";
import type { Job, JobSummary } from "@/api/types";

export const useShelf = defineStore("shelf", () => {
  const jobs = ref<JobSummary[]>([]);
  const loaded = ref(false);
  /** Bytes given back to the disk since the start. */
  const freed = ref(0);
  const bringing = ref<string | null>(null);
  /** Jobs that were taken off the shelf. */
  const thrown = ref<JobSummary[]>([]);
  /** What was taken off last, so that it can be put back at once. */
  const lastThrown = ref<JobSummary[]>([]);
  /** What is damaged, a sentence for each thing; null where nobody has asked and nothing was seen at the start. */
  const damage = ref<string[] | null>(null);
  const looking = ref(false);
  const samples = ref<string[]>([]);
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
    thrown.value = (await getThrown().catch(() => null)) ?? thrown.value;
    if (!jobs.value.length) samples.value = await getSamples().catch(() => []);
    loaded.value = true;
  }

  let told = false;
  /** Tell once, unless asked, what was seen to be damaged when Bisectum began. */
  async function tellDamage(): Promise<void> {
    if (told) return;
    told = true;
    const seen = await getDamage().catch(() => []);
    if (seen.length) damage.value = seen;
  }

  /** Read all that is kept, and tell what is damaged. */
  async function lookThrough(): Promise<void> {
    looking.value = true;
    damage.value = (await attempt(askToLook)) ?? null;
    looking.value = false;
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

  /** Bring back the jobs of bundles. Returns the last one. */
  async function bringBundles(files: readonly File[]): Promise<Job | undefined> {
    let last: Job | undefined;
    let refused: ApiError | null = null;
    for (const file of files) {
      bringing.value = file.name;
      last = (await attempt(() => bringBack(file)))?.at(-1) ?? last;
      refused = error.value ?? refused;
    }
    bringing.value = null;
    await load();
    error.value = refused;
    return last;
  }

  /** Take jobs off the shelf; they can be put back. */
  async function takeOff(gone: readonly JobSummary[]): Promise<void> {
    await attempt(() => throwJobs(gone.map(({ id }) => id), true));
    if (!error.value) lastThrown.value = [...gone];
    await reload();
  }

  async function putBack(back: readonly JobSummary[]): Promise<void> {
    await attempt(() => throwJobs(back.map(({ id }) => id), false));
    lastThrown.value = [];
    await reload();
  }

  /** Delete a job for good. */
  async function remove(id: number): Promise<void> {
    await attempt(() => deleteJob(id));
    await reload();
  }

  async function tag(own: readonly JobSummary[], add: string[], takeOffTags: string[] = []): Promise<void> {
    await attempt(() => tagJobs(own.map(({ id }) => id), add, takeOffTags));
    await reload();
  }

  async function rename(id: number, name: string): Promise<void> {
    await attempt(async () => sendChange(renaming(id, name), (await getJob(id)).revision, crypto.randomUUID()));
    await reload();
  }

  async function copy(id: number, name: string): Promise<void> {
    await attempt(() => copyJob(id, name));
    await reload();
  }

  const sample = (name: string): Promise<Job | undefined> => attempt(() => trySample(name));

  /** Look again, and keep the word on what went wrong before. */
  async function reload(): Promise<void> {
    const told = error.value;
    await load();
    error.value = told ?? error.value;
  }

  return {
    damage, looking, tellDamage, lookThrough, jobs, loaded, freed, bringing, thrown, lastThrown, samples, error, load, lookAgain, bring, bringTogether, bringBundles, takeOff, putBack, remove, tag, rename, copy, sample };
});
