import type { Edits } from "@/core/edits";
import type { Fields } from "@/core/itemChanges";

import { request, sendJson } from "./client";
import type { Bar, Change, Changed, ItemMove, ItemsMove, Job, JobSummary, MakeStepKey, NewItem, Plan, Recipe, Result, Shelf, StepKey, Tried } from "./types";

const item = (id: number, itemId: string): string => `/jobs/${id}/items/${itemId}`;

export const getShelf = () => request<Shelf>("/jobs");
export const getJob = (id: number) => request<Job>(`/jobs/${id}`);
export const deleteJob = (id: number) => request<void>(`/jobs/${id}`, { method: "DELETE" });
export const undoJob = (id: number, revision: number) => sendJson<Job>("POST", `/jobs/${id}/undo`, { revision });
export const redoJob = (id: number, revision: number) => sendJson<Job>("POST", `/jobs/${id}/redo`, { revision });
export const stopJob = (id: number) => request<void>(`/jobs/${id}/stop`, { method: "POST" });
export const jobHistory = (id: number) => request<Change[]>(`/jobs/${id}/history`);
export const getResult = (id: number, signal: AbortSignal) => request<Result>(`/jobs/${id}/result`, { signal });

export const getVariant = (id: number, cloth: string, signal: AbortSignal) => request<Result>(`/jobs/${id}/cloths/${cloth}/result`, { signal });
export const addOpposite = (id: number, revision: number) => sendJson<Job>("POST", `/jobs/${id}/cloths`, { revision });
export const getSheets = (id: number, cloth: string, signal: AbortSignal) => request<Plan>(`/jobs/${id}/sheets?cloth=${cloth}`, { signal });

export const renameJob = (id: number, revision: number, name: string) =>
  sendJson<Changed>("PUT", `/jobs/${id}/name`, { revision, name });
export const resizeJob = (id: number, revision: number, width_mm: number) =>
  sendJson<Job>("PUT", `/jobs/${id}/size`, { revision, width_mm });

export const changeStep = (id: number, itemId: string, revision: number, step: StepKey, edits: Edits, ticket: string) =>
  sendJson<Changed>("PUT", `${item(id, itemId)}/steps/${step}`, { revision, ticket, ...edits });
export const changeMake = (id: number, revision: number, step: MakeStepKey, edits: Edits, ticket: string) =>
  sendJson<Job>("PUT", `/jobs/${id}/make/${step}`, { revision, ticket, ...edits });

export const previewStep = (id: number, itemId: string, step: StepKey, edits: Edits, signal: AbortSignal) =>
  sendJson<Result>("POST", `${item(id, itemId)}/steps/${step}/preview`, edits, signal);
export const previewMake = (id: number, step: MakeStepKey, edits: Edits, signal: AbortSignal) =>
  sendJson<Result>("POST", `/jobs/${id}/make/${step}/preview`, edits, signal);

export const renameItem = (id: number, itemId: string, revision: number, name: string) =>
  sendJson<Job>("PUT", `${item(id, itemId)}/name`, { revision, name });
export const moveItem = (id: number, itemId: string, revision: number, place: number) =>
  sendJson<Job>("PUT", `${item(id, itemId)}/order`, { revision, place });
export const takeOutItem = (id: number, itemId: string, revision: number) =>
  request<Job>(`${item(id, itemId)}?revision=${revision}`, { method: "DELETE" });

export const changeItems = (id: number, revision: number, items: Record<string, Fields>, did: string, ticket: string) =>
  sendJson<Job>("PUT", `/jobs/${id}/items`, { revision, ticket, items, did });
export const moveItems = (id: number, revision: number, how: ItemsMove["how"], did: ItemsMove["did"], ticket: string) =>
  sendJson<Job>("PUT", `/jobs/${id}/items/moved`, { revision, ticket, how, did });
export const previewItems = (id: number, items: Record<string, Fields>, signal: AbortSignal) =>
  sendJson<Result>("POST", `/jobs/${id}/items/preview`, { items }, signal);
export const addItem = (id: number, revision: number, wanted: NewItem) =>
  sendJson<Job>("POST", `/jobs/${id}/made`, { revision, ...wanted });
export const copyItem = (id: number, itemId: string, revision: number, moves: ItemMove[]) =>
  sendJson<Job>("POST", `${item(id, itemId)}/copies`, { revision, moves });

export interface Treatment {
  colours: object;
  lines: object;
  pieces: object;
}
export const recipesFor = (id: number, itemId: string, treatment: Treatment, like_this: boolean) =>
  sendJson<Recipe[]>("POST", `${item(id, itemId)}/try-outs/recipes`, { ...treatment, like_this });
export const tryTreatment = (id: number, itemId: string, { colours, lines, pieces }: Treatment, signal: AbortSignal) =>
  sendJson<Tried>("POST", `${item(id, itemId)}/try-outs`, { colours, lines, pieces }, signal);

export const spotPath = (id: number, itemId: string) => `${item(id, itemId)}/spot`;
export const groundPath = (id: number, itemId: string) => `${item(id, itemId)}/ground`;
export const picturePath = (id: number, itemId: string) => `${item(id, itemId)}/picture`;
export const imagePath = (name: string) => `/images/${name}`;
export interface Wanted {
  cloth?: string;
  per?: string;
  drawn?: string;
  /** Numbers of layers, from 0; none for all. */
  layers?: number[];
  /** Of a PNG. */
  dpi?: number;
  /** What the spot colour of cut lines is called in a PDF. */
  spot?: string;
}
export const exportPath = (id: number, kind: string, { cloth = "", per = "make", drawn = "filled", layers = [], dpi, spot }: Wanted = {}) =>
  `/jobs/${id}/files/${kind}?cloth=${cloth}&per=${per}&drawn=${drawn}${layers.map((number) => `&layers=${number + 1}`).join("")}${dpi ? `&dpi=${dpi}` : ""}${spot ? `&spot=${encodeURIComponent(spot)}` : ""}`;
export const clearedPath = (id: number, itemId: string) => `${item(id, itemId)}/cleared`;
export const sheetPath = (id: number, kind: string, number: number, cloth = "") => `/jobs/${id}/sheets/${number}/files/${kind}?cloth=${cloth}`;
export const sheetsPath = (id: number, kind: string, cloth = "") => `/jobs/${id}/sheets/files/${kind}?cloth=${cloth}`;

export const dropColour = (id: number, itemId: string, x: number, y: number) =>
  request<{ colour: string | null }>(`${item(id, itemId)}/dropper?x=${x}&y=${y}`);

export const cutEdge = (key: string, axis: "x" | "y", at: number) =>
  request<Bar[]>(`/results/${key}/edge?axis=${axis}&at=${at}`);

export function bringIn(picture: File): Promise<Job> {
  const form = new FormData();
  form.append("picture", picture);
  return request<Job>("/jobs", { method: "POST", body: form });
}

export function bringInAnother(id: number, revision: number, picture: File): Promise<Job> {
  const form = new FormData();
  form.append("revision", String(revision));
  form.append("picture", picture);
  return request<Job>(`/jobs/${id}/items`, { method: "POST", body: form });
}

export const bundleUrl = (id: number) => `/api/jobs/${id}/bundle`;
export const progressUrl = (id: number) => `/api/jobs/${id}/progress`;
export const thumbnailUrl = (job: JobSummary) => `/api/jobs/${job.id}/thumbnail?v=${encodeURIComponent(job.changed_at)}`;
