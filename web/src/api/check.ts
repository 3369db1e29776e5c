import { request, sendJson } from "./client";
import type { CutCheck, CutSheet, LeftFile, RepairEdit, Result } from "./types";

export const getCheck = (id: number, cloth: string, signal: AbortSignal) => request<CutCheck>(`/jobs/${id}/check?cloth=${cloth}`, { signal });
export const previewRepair = (id: number, edits: RepairEdit[], signal: AbortSignal) =>
  sendJson<Result>("POST", `/jobs/${id}/repairs/preview`, { edits }, signal);
export const getCut = (id: number, sheet: number, cloth: string, signal: AbortSignal) =>
  request<CutSheet>(`/jobs/${id}/sheets/${sheet}/cut?cloth=${cloth}`, { signal });
export const getLeft = (id: number) => request<LeftFile[]>(`/jobs/${id}/left`);
export const buildSheetPath = (id: number, paper: string, cloth = "") => `/jobs/${id}/build-sheet?paper=${paper}&cloth=${cloth}`;
export const buildSheetPage = (id: number, page: number, paper: string, cloth = "") => `/jobs/${id}/build-sheet/pages/${page}?paper=${paper}&cloth=${cloth}`;
