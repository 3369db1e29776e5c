import type { Edits } from "@/core/edits";
import type { Fields } from "@/core/itemChanges";

import { request, sendJson } from "./client";
import type { Bar, Change, Changed, ItemMove, ItemsMove, Job, JobSummary, MakeStepKey, NewItem, Plan, Recipe, RepairEdit, Result, Shelf, StepKey, Tried } from "./types";

const item = (id: number, itemId: string): string => `/jobs/${id}/items/${itemId}`;

export const getShelf = () => request<Shelf>("/jobs");
export const getJob = (id: number) => request<Job>(`/jobs/${id}`);
export const deleteJob = (id: number) => request<void>(`/jobs/${id}`, { method: "DELETE" });
export const stopJob = (id: number) => request<void>(`/jobs/${id}/stop`, { method: "POST" });
export const jobHistory = (id: number) => request<Change[]>(`/jobs/${id}/history`);
export const getResult = (id: number, signal: AbortSignal) => request<Result>(`/jobs/${id}/result`, { signal });

export const getVariant = (id: number, cloth: string, signal: AbortSignal) => request<Result>(`/jobs/${id}/cloths/${cloth}/result`, { signal });
export const getSheets = (id: number, cloth: string, signal: AbortSignal) => request<Plan>(`/jobs/${id}/sheets?cloth=${cloth}`, { signal });

/** A change of a job, as it is sent on whatever revision it is made on. */
export interface ChangeRequest {
  method: "PUT" | "POST";
  path: string;
  body: object;
}
const put = (path: string, body: object): ChangeRequest => ({ method: "PUT", path, body });
const post = (path: string, body: object = {}): ChangeRequest => ({ method: "POST", path, body });

/** ticket: the change's own name; the server makes it once for each. */
export const sendChange = ({ method, path, body }: ChangeRequest, revision: number, ticket: string) =>
  sendJson<Job | Changed>(method, path, { revision, ticket, ...body });

export const renaming = (id: number, name: string) => put(`/jobs/${id}/name`, { name });
export const resizing = (id: number, width_mm: number) => put(`/jobs/${id}/size`, { width_mm });
export const undoing = (id: number) => post(`/jobs/${id}/undo`);
export const redoing = (id: number) => post(`/jobs/${id}/redo`);
export const addingOpposite = (id: number) => post(`/jobs/${id}/cloths`);
export const changingStep = (id: number, itemId: string, step: StepKey, edits: Edits) => put(`${item(id, itemId)}/steps/${step}`, edits);
export const changingMake = (id: number, step: MakeStepKey, edits: Edits) => put(`/jobs/${id}/make/${step}`, edits);
export const changingItems = (id: number, items: Record<string, Fields>, did: string) => put(`/jobs/${id}/items`, { items, did });
export const movingItems = (id: number, how: ItemsMove["how"], did: ItemsMove["did"]) => put(`/jobs/${id}/items/moved`, { how, did });
export const addingItem = (id: number, wanted: NewItem) => post(`/jobs/${id}/made`, wanted);
export const copyingItem = (id: number, itemId: string, moves: ItemMove[]) => post(`${item(id, itemId)}/copies`, { moves });
export const renamingItem = (id: number, itemId: string, name: string) => put(`${item(id, itemId)}/name`, { name });
export const orderingItem = (id: number, itemId: string, place: number) => put(`${item(id, itemId)}/order`, { place });
export const takingOutItem = (id: number, itemId: string) => post(`${item(id, itemId)}/taken-out`);
export const repairing = (id: number, code: string, edits: RepairEdit[]) => post(`/jobs/${id}/repairs`, { code, edits });

export const previewStep = (id: number, itemId: string, step: StepKey, edits: Edits, signal: AbortSignal) =>
  sendJson<Result>("POST", `${item(id, itemId)}/steps/${step}/preview`, edits, signal);
export const previewMake = (id: number, step: MakeStepKey, edits: Edits, signal: AbortSignal) =>
  sendJson<Result>("POST", `/jobs/${id}/make/${step}/preview`, edits, signal);

export const previewItems = (id: number, items: Record<string, Fields>, signal: AbortSignal) =>
  sendJson<Result>("POST", `/jobs/${id}/items/preview`, { items }, signal);

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
