import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";

import { ApiError } from "@/api/client";
import { recipesFor, tryTreatment, type Treatment } from "@/api/jobs";
import type { PictureItem, Recipe, Tried } from "@/api/types";
import { beatenOnes } from "@/core/beaten";
import { useJob } from "@/stores/job";

/** A try-out on the page. letter: its name there; like: the letter of the one it is a variant of; picture: of which it is. */
export interface TryOut {
  letter: string;
  recipe: Recipe;
  item: PictureItem;
  like: string;
  state: "waiting" | "working" | "done" | "failed";
  tried: Tried | null;
  reason: ApiError | null;
}

/** At most so many are on the page; older ones that were not picked go first. */
const MOST = 24;
const FIRST = 16;
const NOTHING: Treatment = { colours: {}, lines: {}, pieces: {} };
const letterOf = (number: number): string => {
  const letters = "ABCDEFGHJKLMNPQRSTUVWXYZ";
  const again = Math.floor(number / letters.length);
  return `${letters[number % letters.length] ?? ""}${again ? again + 1 : ""}`;
};

/** Try-outs of the open job: made one after the other, those asked for last first. */
export const useTryOuts = defineStore("tryOuts", () => {
  const job = useJob();
  const all = shallowRef<readonly TryOut[]>([]);
  const picked = ref("");
  const stopped = ref(false);
  const error = shallowRef<ApiError | null>(null);
  let made = 0;
  let round = 0;
  let of = "";
  let running: AbortController | null = null;
  let asked: { item: PictureItem; recipes: Promise<Recipe[]> } | null = null;

  const chosen = computed(() => all.value.find((one) => one.letter === picked.value) ?? null);
  const left = computed(() => all.value.filter((one) => one.state === "waiting" || one.state === "working").length);
  const beaten = computed(() => beatenOnes(all.value.filter((one) => one.tried)));

  function put(letter: string, change: Partial<TryOut>): void {
    all.value = all.value.map((one) => (one.letter === letter ? { ...one, ...change } : one));
  }

  function fail(reason: unknown): void {
    error.value = reason instanceof ApiError ? reason : new ApiError("defect", String(reason));
  }

  /** What is worth trying on a photograph is asked for ahead, so that the picture is open there when the page is. */
  async function prepare(): Promise<void> {
    if (!job.kept || !job.item || asked?.item === job.item) return;
    asked = { item: job.item, recipes: recipesFor(job.kept.id, job.item.id, NOTHING, false) };
    await asked.recipes.catch(() => (asked = null));
  }

  /** What was made for the job and its item as they are now stays when the page is opened again. */
  async function open(): Promise<void> {
    if (!job.kept || !job.item) return;
    const now = `${job.kept.id}/${job.item.id}/${JSON.stringify(job.item.course)}`;
    if (now === of && all.value.length) {
      void goOn();
      return;
    }
    of = now;
    clear();
    await add(job.item, NOTHING, false, "");
  }

  function clear(): void {
    round += 1;
    running?.abort();
    running = null;
    all.value = [];
    picked.value = "";
    made = 0;
    stopped.value = false;
    error.value = null;
  }

  async function add(item: PictureItem, treatment: Treatment, likeThis: boolean, like: string): Promise<void> {
    if (!job.kept) return;
    const own = round;
    try {
      const ahead = treatment === NOTHING && asked?.item === item ? asked.recipes : null;
      const recipes = await (ahead ?? recipesFor(job.kept.id, item.id, treatment, likeThis));
      if (own !== round) return;
      const fresh = recipes.map((recipe): TryOut => fresh_(recipe, item, like));
      all.value = [...fresh.slice(0, likeThis ? MOST : FIRST), ...all.value].slice(0, MOST);
      void goOn();
    } catch (reason) {
      if (own === round) fail(reason);
    }
  }

  const fresh_ = (recipe: Recipe, item: PictureItem, like: string): TryOut => ({
    letter: letterOf(made++), recipe, item, like, state: "waiting", tried: null, reason: null,
  });

  /** Variants of the one that is picked, made before all others. */
  async function more(): Promise<void> {
    const one = chosen.value;
    if (one) await add(one.item, one.recipe, true, one.letter);
  }

  /** The one that is picked, on all other pictures of the job. */
  function onOthers(): void {
    const one = chosen.value;
    if (!one) return;
    const others = job.pictures.filter((item) => item.id !== one.item.id);
    all.value = [...others.map((item) => fresh_({ ...one.recipe }, item, one.letter)), ...all.value].slice(0, MOST);
    void goOn();
  }

  async function goOn(): Promise<void> {
    stopped.value = false;
    if (running) return;
    const own = round;
    for (;;) {
      const next = all.value.find((one) => one.state === "waiting");
      if (!next || own !== round || stopped.value || !job.kept) break;
      const work = new AbortController();
      running = work;
      put(next.letter, { state: "working" });
      try {
        const tried = await tryTreatment(job.kept.id, next.item.id, next.recipe, work.signal);
        if (own !== round || work.signal.aborted) return;
        put(next.letter, { state: "done", tried });
        if (!picked.value) picked.value = next.letter;
      } catch (reason) {
        if (own !== round || work.signal.aborted) return;
        const told = reason instanceof ApiError ? reason : new ApiError("defect", String(reason));
        const again = told.code === "aborted" || told.code === "superseded" || told.code === "cancelled";
        put(next.letter, again ? { state: "waiting" } : { state: "failed", reason: told });
        if (told.code === "offline") {
          fail(told);
          stopped.value = true;
        }
      }
    }
    running = null;
  }

  function stop(): void {
    stopped.value = true;
    running?.abort();
    running = null;
    all.value = all.value.map((one) => (one.state === "working" ? { ...one, state: "waiting" } : one));
  }

  /** Keep what the picked one sets: one step of the history, and one more for lines and for pieces where it sets these. */
  async function take(): Promise<void> {
    const one = chosen.value;
    if (!one) return;
    job.openItem(one.item.id);
    stop();
    await job.change("colours", one.recipe.colours);
    for (const step of ["lines", "pieces"] as const) {
      if (Object.keys(one.recipe[step]).length) await job.change(step, one.recipe[step]);
    }
  }

  return { all, picked, chosen, left, stopped, error, beaten, open, more, onOthers, goOn, stop, take, clear, prepare };
});
