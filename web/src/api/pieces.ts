import { request } from "./client";
import type { Pieces } from "./types";

export const getPieces = (id: number, item: string, signal: AbortSignal) => request<Pieces>(`/jobs/${id}/items/${item}/pieces`, { signal });
