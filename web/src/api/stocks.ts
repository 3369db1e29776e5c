import { request, sendJson } from "./client";
import type { Carrier, Carriers, Drawer, Matches, Stock } from "./types";

export const getDrawer = () => request<Drawer>("/stocks");
export const putDrawer = (version: string, stocks: Stock[]) => sendJson<Drawer>("PUT", "/stocks", { version, stocks });
export const matchStocks = (colours: string[], kind: Stock["kind"] | null) =>
  sendJson<Matches>("POST", "/stocks/match", { colours, kind });
export const getCarriers = () => request<Carriers>("/stocks/carriers");
export const putCarriers = (own: Carrier[]) => sendJson<Carriers>("PUT", "/stocks/carriers", { own });
export const stocksCsvUrl = "/api/stocks/csv";

export function bringInStocks(version: string, file: File): Promise<Drawer> {
  const form = new FormData();
  form.append("file", file);
  form.append("version", version);
  return request<Drawer>("/stocks/csv", { method: "POST", body: form });
}
