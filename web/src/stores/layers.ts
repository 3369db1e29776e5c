import { defineStore } from "pinia";
import { computed, ref, shallowRef, watch } from "vue";

import { ApiError } from "@/api/client";
import { getVariant } from "@/api/jobs";
import type { Result, Variant } from "@/api/types";
import { Latest } from "@/core/latest";

import { useJob } from "./job";
import { useStage } from "./stage";

/** How the layers are looked at: one alone, put on one by one, and for another cloth. */
export const useLayers = defineStore("layers", () => {
  const job = useJob();
  const stage = useStage();
  /** The layer that is shown alone, by its place. */
  const alone = ref(0);
  /** The layer that is lit up while the pointer is on its row; -1 for none. */
  const lit = ref(-1);
  /** How many layers are put on. */
  const shown = ref(Infinity);
  /** The cloth that is looked at beside the job's own. */
  const cloth = ref("");
  const variant = shallowRef<Result | null>(null);
  const failed = ref("");
  const latest = new Latest();
  const variants = computed<Variant[]>(() => job.make?.layers.variants ?? []);
  const chosen = computed(() => variants.value.find(({ id }) => id === cloth.value) ?? variants.value[0] ?? null);
  const wanted = computed(() => stage.first === "variant" || stage.second === "variant");

  async function load(): Promise<void> {
    const id = job.kept?.id;
    const own = chosen.value?.id;
    // A variant that has just been asked for is no part of the job yet.
    if (!id || !own || !wanted.value || !job.kept?.document.make.layers.variants.some((one) => one.id === own)) {
      variant.value = null;
      return;
    }
    try {
      const found = await latest.run((signal) => getVariant(id, own, signal));
      if (found) variant.value = found;
      failed.value = "";
    } catch (reason) {
      if (reason instanceof ApiError && ["superseded", "aborted", "cancelled"].includes(reason.code)) return;
      failed.value = reason instanceof ApiError ? reason.message : String(reason);
    }
  }

  watch([() => job.kept?.id, () => job.kept?.moves, () => chosen.value?.id, wanted], () => void load(), { immediate: true });
  watch([() => job.kept?.id, () => stage.step], () => {
    shown.value = Infinity;
    lit.value = -1;
  });
  watch(() => job.result?.layers.length, (count) => {
    if (alone.value >= (count ?? 0)) alone.value = 0;
  });

  return { alone, lit, shown, cloth, variants, chosen, variant, failed };
});
