import { defineStore } from "pinia";
import { computed, ref, shallowRef, watch } from "vue";

import { ApiError } from "@/api/client";
import { getCut } from "@/api/check";
import type { CutSheet } from "@/api/types";
import { nextLine } from "@/core/cutting";
import { Latest } from "@/core/latest";

import { useJob } from "./job";
import { useStage } from "./stage";

export const PACES = [1, 4, 16, 64] as const;
const WEED_S = 1.6; // in which waste fades
const PLAYED_S = 12; // about so long one looks on

/** The stand-in cutter: a sheet's file that was cut, and how far one has looked on. */
export const useCutter = defineStore("cutter", () => {
  const job = useJob();
  const stage = useStage();
  /** Whether the cutter is on the stage while the check is open. */
  const wanted = ref(false);
  const active = computed(() => wanted.value && stage.step === "check");
  const sheet = ref(1);
  const done = shallowRef<CutSheet | null>(null);
  const working = ref(false);
  const error = shallowRef<ApiError | null>(null);
  /** s of the machine's time. */
  const time = ref(0);
  const playing = ref(false);
  const pace = ref<number>(4);
  /** How far the waste is weeded, 0 to 1. */
  const weeded = ref(0);
  const weeding = ref(false);
  const latest = new Latest();
  const isCut = computed(() => done.value !== null && time.value >= done.value.seconds - 1e-6);

  async function load(): Promise<void> {
    const id = job.kept?.id;
    if (!id || !active.value || job.unsent) return;
    working.value = true;
    try {
      const answer = await latest.run((signal) => getCut(id, sheet.value, "", signal));
      if (!answer) return;
      done.value = answer;
      pace.value = PACES.find((own) => answer.seconds / own <= PLAYED_S) ?? 64;
      rewind();
      error.value = null;
      working.value = false;
    } catch (reason) {
      const told = reason instanceof ApiError ? reason : new ApiError("defect", String(reason));
      if (told.code === "superseded" || told.code === "aborted") return;
      working.value = false;
      done.value = null;
      if (told.code === "sheet_missing" && sheet.value > 1) sheet.value = 1;
      else error.value = told.code === "cancelled" ? null : told;
    }
  }

  function rewind(): void {
    time.value = 0;
    weeded.value = 0;
    playing.value = false;
    weeding.value = false;
  }

  function seek(next: number): void {
    time.value = Math.min(done.value?.seconds ?? 0, Math.max(0, next));
    if (!isCut.value) weeded.value = 0;
  }

  function play(): void {
    if (isCut.value) rewind();
    playing.value = !playing.value;
  }

  function step(by: 1 | -1): void {
    playing.value = false;
    if (done.value) seek(nextLine(done.value.moves, time.value, by));
  }

  /** Some time has gone by on the clock, s. */
  function tick(by: number): void {
    if (playing.value) {
      seek(time.value + by * pace.value);
      if (isCut.value) playing.value = false;
    }
    if (weeding.value) {
      weeded.value = Math.min(1, weeded.value + by / WEED_S);
      if (weeded.value >= 1) weeding.value = false;
    }
  }

  function weed(): void {
    if (!done.value) return;
    playing.value = false;
    seek(done.value.seconds);
    // Where somebody wants no movement on the screen it is done at once.
    if (weeded.value >= 1) weeded.value = 0;
    else if (window.matchMedia?.("(prefers-reduced-motion: reduce)").matches) weeded.value = 1;
    else weeding.value = true;
  }

  watch([active, sheet, () => job.kept?.id, () => job.kept?.moves, () => job.unsent], () => void load());
  watch(() => job.kept?.id, () => {
    wanted.value = false;
    sheet.value = 1;
    done.value = null;
  });

  return { wanted, active, sheet, done, working, error, time, playing, pace, weeded, weeding, isCut, load, rewind, seek, play, step, tick, weed };
});
