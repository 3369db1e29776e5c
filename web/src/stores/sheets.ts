import { defineStore } from "pinia";
import { computed, ref, shallowRef, watch } from "vue";

import { ApiError } from "@/api/client";
import { getSheets } from "@/api/jobs";
import { getCarriers, putCarriers } from "@/api/stocks";
import type { ByHand, Carrier, Carriers, Plan } from "@/api/types";
import { Latest } from "@/core/latest";
import type { Point } from "@/core/nodeGrid";
import { foundAgain, handOf, isSame, moved, through, withMoved, type Picked } from "@/core/sheets";

import { useCutter } from "./cutter";
import { useJob } from "./job";
import { useStage } from "./stage";

/** The sheets of the job: laid out by the server while the step is open, put right by hand. */
export const useSheets = defineStore("sheets", () => {
  const job = useJob();
  const stage = useStage();
  const cutter = useCutter();
  const plan = shallowRef<Plan | null>(null);
  const working = ref(false);
  /** Whether the last layout was stopped by hand. */
  const stopped = ref(false);
  const error = shallowRef<ApiError | null>(null);
  const cloth = ref("");
  const picked = ref<Picked | null>(null);
  const carriers = shallowRef<Carriers>({ shipped: [], own: [] });
  const latest = new Latest();
  /** Also while a sheet is under the cutter. */
  const active = computed(() => stage.step === "sheets" || cutter.active);
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
    stopped.value = false;
    try {
      const found = await latest.run((signal) => getSheets(id, cloth.value, signal));
      // With more changes on their way the plan that comes after them is waited for.
      if (!found || job.unsent) return;
      // What was picked is picked still, wherever it lies now.
      const held = pickedHand();
      plan.value = found;
      picked.value = held && foundAgain(found, held);
      error.value = null;
      working.value = false;
    } catch (reason) {
      const told = reason instanceof ApiError ? reason : new ApiError("defect", String(reason));
      if (told.code === "superseded" || told.code === "aborted") return;
      working.value = false;
      stopped.value = told.code === "cancelled";
      error.value = stopped.value ? null : told;
    }
  }

  /** The picked part as places by hand tell it. */
  function pickedHand(): ByHand | null {
    const sheet = picked.value && plan.value?.sheets[picked.value.sheet];
    return (plan.value && sheet && laid.value && handOf(plan.value, laid.value, laid.value.matrix, sheet.number)) ?? null;
  }

  /** Move and turn what is picked; it is seen there at once. by: mm on the carrier; onto: another sheet. */
  function put(by: Point, turn = 0, onto = picked.value?.sheet ?? -1): void {
    const now = plan.value;
    const to = now?.sheets[onto];
    if (!now || !to || !laid.value || !picked.value || !canMove.value) return;
    const [x, y] = now.parts[laid.value.part]?.at ?? [0, 0];
    const about = through(laid.value.matrix, { x: x * now.page_width, y: y * now.page_width });
    const matrix = moved(laid.value.matrix, by, turn, about);
    const hand = handOf(now, laid.value, matrix, to.number);
    if (!hand) return;
    const seen = withMoved(now, picked.value, matrix, onto);
    plan.value = seen.plan;
    picked.value = seen.picked;
    const rest = (settings.value?.by_hand ?? []).filter((one) => !isSame(one, hand));
    void job.changeMake("sheets", { by_hand: [...rest, hand] });
  }

  /** Let what is picked lie where it is laid by itself. */
  function putBack(): void {
    const own = pickedHand();
    if (own) void job.changeMake("sheets", { by_hand: (settings.value?.by_hand ?? []).filter((one) => !isSame(one, own)) });
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

  return { plan, working, stopped, error, cloth, picked, laid, carriers, active, settings, canMove, load, put, putBack, openCarriers, keepCarriers };
});
