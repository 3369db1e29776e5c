import { defineStore } from "pinia";
import { computed, ref, shallowRef, watch } from "vue";

import { ApiError } from "@/api/client";
import { bringInStocks, getDrawer, matchStocks, putDrawer } from "@/api/stocks";
import type { Drawer, Matches, Stock } from "@/api/types";

import { useJob } from "./job";

export const STOCK_KINDS: Stock["kind"][] = ["adhesive vinyl", "heat-transfer vinyl", "flock", "card", "other"];
const KEPT_KIND = "bisectum.stock-kind";

/** The drawer of materials, and what in it fits the layers of the job. */
export const useStocks = defineStore("stocks", () => {
  const job = useJob();
  const drawer = shallowRef<Drawer>({ version: "", stocks: [], used: {} });
  const matches = shallowRef<Matches | null>(null);
  const error = ref("");
  const kept = localStorage.getItem(KEPT_KIND) as Stock["kind"] | null;
  const kind = ref<Stock["kind"] | "any">(kept && STOCK_KINDS.includes(kept) ? kept : "any");
  watch(kind, (value) => localStorage.setItem(KEPT_KIND, value));
  const colours = computed(() => (job.result?.layers ?? []).map((layer) => layer.colour));

  async function change(work: () => Promise<Drawer>): Promise<void> {
    try {
      drawer.value = await work();
      error.value = "";
    } catch (reason) {
      error.value = reason instanceof ApiError ? reason.message : String(reason);
      if (reason instanceof ApiError && reason.code === "drawer_moved_on") drawer.value = await getDrawer();
    }
  }

  const open = (): Promise<void> => change(getDrawer);
  const keep = (stocks: Stock[]): Promise<void> => change(() => putDrawer(drawer.value.version, stocks));
  const bringIn = (file: File): Promise<void> => change(() => bringInStocks(drawer.value.version, file));

  watch(
    [() => colours.value.join(), drawer, kind],
    async () => {
      if (!colours.value.length || !drawer.value.stocks.length) {
        matches.value = null;
        return;
      }
      const asked = colours.value;
      const found = await matchStocks(asked, kind.value === "any" ? null : kind.value).catch(() => null);
      if (asked === colours.value) matches.value = found;
    },
    { immediate: true },
  );

  return { drawer, matches, error, kind, open, keep, bringIn };
});
