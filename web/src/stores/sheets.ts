import { defineStore } from "pinia";
import { computed, ref, shallowRef, watch } from "vue";

import { ApiError } from "@/api/client";
import { getSheets } from "@/api/jobs";
import { getCarriers, putCarriers } from "@/api/stocks";
import type { ByHand, Carrier, Carriers, Plan } from "@/api/types";
import { Latest } from "@/core/latest";
import type { Point } from "@/core/nodeGrid";
import { handOf, isSame, moved, through } from "@/core/sheets";

import { useJob } from "./job";
import { useStage } from "./stage";

/** A part that is picked: its sheet, and its number on it. */
export interface Picked {
  sheet: number;
  place: number;
}

/** The sheets of the job: laid out by the server while the step is open, put right by hand. */
export const useSheets = defineStore("sheets", () => {
  const job = useJob();
  const stage = useStage();
  const plan = shallowRef<Plan | null>(null);
  const working = ref(false);
  const error = shallowRef<ApiError | null>(null);
  const cloth = ref("");
  const picked = ref<Picked | null>(null);
  const carriers = shallowRef<Carriers>({ shipped: [], own: [] });
  const latest = new Latest();
  const active = computed(() => stage.step === "sheets");
  const settings = computed(() => job.make?.sheets);
  /** Parts can be moved where they are laid out by themselves. */
  const canMove = computed(() => settings.value?.layout === "ganged");
  const laid = computed(() => {
    const sheet = picked.value && plan.value?.sheets[picked.value.sheet];
    return (sheet && sheet.places[picked.value?.place ?? -1]) ?? null;
  });

  async function load(): Promise<void> {
    const id = job.kept?.id;
    if (!id || !active.value) return;
    working.value = true;
    try {
      const found = await latest.run((signal) => getSheets(id, cloth.value, signal));
      if (!found) return;
      plan.value = found;
      error.value = null;
      repick();
      working.value = false;
    } catch (reason) {
      const told = reason instanceof ApiError ? reason : new ApiError("defect", String(reason));
      if (told.code === "superseded" || told.code === "aborted") return;
      working.value = false;
      error.value = told.code === "cancelled" ? null : told;
    }
  }

  /** What was picked is found again by where it was put. */
  let wanted: ByHand | null = null;
  function repick(): void {
    if (!wanted || !plan.value) return;
    const now = plan.value;
    picked.value = null;
    now.sheets.forEach((sheet, i) =>
      sheet.places.forEach((place, k) => {
        const own = wanted && handOf(now, place, place.matrix, sheet.number);
        if (own && wanted && isSame(own, wanted)) picked.value = { sheet: i, place: k };
      }),
    );
    wanted = null;
  }

  /** Move and turn what is picked. by: mm on the carrier; onto: another sheet. */
  function put(by: Point, turn = 0, onto?: number): void {
    const now = plan.value;
    const from = picked.value && now?.sheets[picked.value.sheet];
    const to = now?.sheets[onto ?? picked.value?.sheet ?? -1];
    if (!now || !from || !to || !laid.value || !canMove.value) return;
    const part = now.parts[laid.value.part];
    const [x, y] = part?.at ?? [0, 0];
    const about = through(laid.value.matrix, { x: x * now.page_width, y: y * now.page_width });
    const hand = handOf(now, laid.value, moved(laid.value.matrix, by, turn, about), to.number);
    if (!hand) return;
    wanted = hand;
    const rest = (settings.value?.by_hand ?? []).filter((one) => !isSame(one, hand));
    void job.changeMake("sheets", { by_hand: [...rest, hand] });
  }

  /** Let what is picked lie where it is laid by itself. */
  function putBack(): void {
    const now = plan.value;
    const sheet = picked.value && now?.sheets[picked.value.sheet];
    const own = now && sheet && laid.value && handOf(now, laid.value, laid.value.matrix, sheet.number);
    if (!own) return;
    wanted = own;
    void job.changeMake("sheets", { by_hand: (settings.value?.by_hand ?? []).filter((one) => !isSame(one, own)) });
  }

  async function openCarriers(): Promise<void> {
    carriers.value = await getCarriers().catch(() => carriers.value);
  }

  async function keepCarriers(own: Carrier[]): Promise<void> {
    try {
      carriers.value = await putCarriers(own);
      error.value = null;
    } catch (reason) {
      error.value = reason instanceof ApiError ? reason : new ApiError("defect", String(reason));
    }
  }

  watch([active, () => job.kept?.id, () => job.kept?.moves, cloth], () => void load(), { immediate: true });
  watch(() => job.kept?.id, () => {
    plan.value = null;
    picked.value = null;
    cloth.value = "";
  });
  watch([active, () => settings.value?.layout], () => (picked.value = null));
  // A cloth that was taken out is looked at no more.
  watch(() => job.make?.layers.variants.map(({ id }) => id).join(), (ids) => {
    if (cloth.value && !ids?.split(",").includes(cloth.value)) cloth.value = "";
  });

  return { plan, working, error, cloth, picked, laid, carriers, active, settings, canMove, load, put, putBack, openCarriers, keepCarriers };
});
