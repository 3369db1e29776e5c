import { ask, request, sendJson } from "./client";
import type { Job, JobSummary } from "./types";

export const getThrown = () => request<JobSummary[]>("/shelf/thrown");
export const throwJobs = (jobs: number[], thrown: boolean) => sendJson<void>("POST", "/shelf/thrown", { jobs, thrown });
export const tagJobs = (jobs: number[], add: string[], take_off: string[] = []) => sendJson<void>("POST", "/shelf/tags", { jobs, add, take_off });
export const copyJob = (job: number, name: string) => sendJson<Job>("POST", "/shelf/copies", { job, name });
/** What was seen to be damaged of all that is kept, a sentence for each thing. */
export const getDamage = () => request<string[]>("/shelf/damage");
export const lookThrough = () => request<string[]>("/shelf/damage", { method: "POST" });
export const getSamples = () => request<string[]>("/shelf/samples");
export const trySample = (name: string) => request<Job>(`/shelf/samples/${name}`, { method: "POST" });
export const samplePicture = (name: string) => `/api/shelf/samples/${name}`;
export const bundleOf = (jobs: number[]) =>
  ask("/shelf/bundle", { method: "POST", body: JSON.stringify({ jobs }), headers: { "Content-Type": "application/json" } });

export function bringBack(bundle: File): Promise<Job[]> {
  const form = new FormData();
  form.append("bundle", bundle);
  return request<Job[]>("/shelf/bundles", { method: "POST", body: form });
}
