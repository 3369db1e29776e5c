import { request } from "./client";
import type { Font } from "./types";

export const getFonts = () => request<Font[]>("/fonts");
export const fontUrl = (id: string) => `/api/fonts/${id}/file`;

export function bringInFont(font: File): Promise<Font> {
  const form = new FormData();
  form.append("font", font);
  return request<Font>("/fonts", { method: "POST", body: form });
}
