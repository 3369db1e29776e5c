import { ask, nameOf, request } from "./client";
import type { Glass } from "./types";

export const getGlass = () => request<Glass>("/scanner");
/** A first look at the glass; number: so that a new one is fetched. */
export const lookUrl = (number: number) => `/api/scanner/look?n=${number}`;
export const takeOffGlass = (name: string) => request<Glass>(`/scanner/glass/${encodeURIComponent(name)}`, { method: "DELETE" });

export function putOnGlass(picture: File): Promise<Glass> {
  const form = new FormData();
  form.append("picture", picture);
  return request<Glass>("/scanner/glass", { method: "POST", body: form });
}

/** An area of the glass, mm, as a picture file. */
export async function scan(area: { x: number; y: number; width: number; height: number }, dpi: number, grey: boolean): Promise<File> {
  const answer = await ask("/scanner/scan", {
    method: "POST", body: JSON.stringify({ ...area, dpi, grey }), headers: { "Content-Type": "application/json" },
  });
  return new File([await answer.blob()], nameOf(answer) ?? "Scan.png", { type: "image/png" });
}
