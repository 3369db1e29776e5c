import { request, sendJson } from "./client";
import type { Bar, Change, Job, JobSummary, Result, StepKey } from "./types";

export const listJobs = () => request<JobSummary[]>("/jobs");
export const getJob = (id: number) => request<Job>(`/jobs/${id}`);
export const deleteJob = (id: number) => request<void>(`/jobs/${id}`, { method: "DELETE" });
export const undoJob = (id: number) => request<Job>(`/jobs/${id}/undo`, { method: "POST" });
export const redoJob = (id: number) => request<Job>(`/jobs/${id}/redo`, { method: "POST" });
export const stopJob = (id: number) => request<void>(`/jobs/${id}/stop`, { method: "POST" });
export const jobHistory = (id: number) => request<Change[]>(`/jobs/${id}/history`);
export const getResult = (id: number) => request<Result>(`/jobs/${id}/result`);

export const renameJob = (id: number, revision: number, name: string) =>
  sendJson<Job>("PUT", `/jobs/${id}/name`, { revision, name });

export const changeStep = (id: number, revision: number, step: StepKey, settings: object) =>
  sendJson<Job>("PUT", `/jobs/${id}/steps/${step}`, { revision, settings });

export const previewStep = (id: number, step: StepKey, settings: object, signal: AbortSignal) =>
  sendJson<Result>("POST", `/jobs/${id}/steps/${step}/preview`, { settings }, signal);

export const spotUrl = (id: number) => `/api/jobs/${id}/spot`;

export const groundUrl = (id: number) => `/api/jobs/${id}/ground`;

export const dropColour = (id: number, x: number, y: number) =>
  request<{ colour: string | null }>(`/jobs/${id}/dropper?x=${x}&y=${y}`);

export const cutEdge = (key: string, axis: "x" | "y", at: number) =>
  request<Bar[]>(`/results/${key}/edge?axis=${axis}&at=${at}`);

export function bringIn(picture: File): Promise<Job> {
  const form = new FormData();
  form.append("picture", picture);
  return request<Job>("/jobs", { method: "POST", body: form });
}

export const pictureUrl = (id: number) => `/api/jobs/${id}/picture`;
export const imageUrl = (key: string, image: "picture" | "background" | "colours") => `/api/results/${key}/images/${image}`;
export const exportUrl = (id: number) => `/api/jobs/${id}/export.svg`;
export const progressUrl = (id: number) => `/api/jobs/${id}/progress`;
export const thumbnailUrl = (job: JobSummary) => `/api/jobs/${job.id}/thumbnail?v=${encodeURIComponent(job.changed_at)}`;
