import { defineStore } from "pinia";
import { computed, ref, shallowRef, watch } from "vue";

import { ApiError } from "@/api/client";
import { getCheck } from "@/api/check";
import type { Checked, CutCheck, MaterialLimits, Repair, RepairEdit } from "@/api/types";
import { following, groupsOf, ringAt, ringsOf, type CheckScene } from "@/core/check";
import type { Step } from "@/core/course";
import { Latest } from "@/core/latest";
import type { Point } from "@/core/nodeGrid";

import { useJob } from "./job";
import { useStage } from "./stage";

const AGAIN_MS = 600;

/** The cut check of the job: it runs by itself once a result is there. */
export const useCheck = defineStore("check", () => {
  const job = useJob();
  const stage = useStage();
  const found = shallowRef<CutCheck | null>(null);
  const working = ref(false);
  const error = shallowRef<ApiError | null>(null);
  /** The number of the finding that is looked at. */
  const picked = ref(-1);
  /** The repair that is seen on the stage while the pointer is on it. */
  const tried = ref(false);
  /** What the job was like when it was looked through: where it stood along its history. */
  let seen = "";
  const latest = new Latest();
  const active = computed(() => stage.step === "check");
  const groups = computed(() => (found.value ? groupsOf(found.value) : []));
  const ignored = computed<Checked[]>(() => (found.value?.findings ?? []).filter((one) => one.ignored));
  const rings = computed(() => (found.value ? ringsOf(found.value) : []));
  const scene = computed<CheckScene | null>(() => (active.value && rings.value.length ? { rings: rings.value, picked: picked.value } : null));
  /** Whether what is found is of the job as it is seen. */
  const isFresh = computed(() => !working.value && job.work === "idle" && !job.unsent);

  async function load(): Promise<void> {
    const id = job.kept?.id;
    if (!id || job.work !== "idle" || job.unsent || !job.result || job.result.preview) return;
    const now = `${id}/${job.kept?.moves}`;
    if (found.value && seen === now) return;
    working.value = true;
    try {
      const answer = await latest.run((signal) => getCheck(id, "", signal));
      if (!answer) return;
      seen = now;
      const held = found.value?.findings[picked.value]?.known;
      found.value = answer;
      picked.value = held ? answer.findings.findIndex(({ known }) => JSON.stringify(known) === JSON.stringify(held)) : -1;
      error.value = null;
      working.value = false;
    } catch (reason) {
      const told = reason instanceof ApiError ? reason : new ApiError("defect", String(reason));
      if (told.code === "aborted") return;
      // Another page has asked for the same job: its answer is soon there for both.
      if (told.code === "superseded") setTimeout(() => void load(), AGAIN_MS);
      working.value = false;
      error.value = ["superseded", "cancelled"].includes(told.code) ? null : told;
    }
  }

  /** Look at a finding. */
  function pick(number: number): void {
    picked.value = number;
    const at = found.value?.findings[number]?.finding.at;
    if (at) stage.lookAt({ x: at[0], y: at[1] });
  }

  function pickFollowing(step: 1 | -1): void {
    if (found.value) pick(following(found.value.findings, picked.value, step));
  }

  const at = (place: Point, reach: number): number => ringAt(rings.value, place, reach);

  // Repairs

  function look(edits: RepairEdit[]): void {
    if (!edits.length || !isFresh.value || tried.value) return;
    tried.value = true;
    void job.tryRepair(edits);
  }

  function lookAway(): void {
    if (!tried.value) return;
    tried.value = false;
    void job.workOut();
  }

  function mend(code: string, edits: RepairEdit[]): void {
    if (!isFresh.value && !tried.value) return;
    tried.value = false;
    void job.repair(code, edits);
  }

  function apply(repair: Repair): void {
    if (repair.edits.length) mend(repair.code, repair.edits);
    else if (repair.opens) stage.openStep(repair.opens as Step);
  }

  function ignore(one: Checked): void {
    void job.changeMake("check", { ignored: [...(job.make?.check.ignored ?? []), one.known] });
  }

  function heed(one: Checked): void {
    const { code, layer, item } = one.known;
    const own = job.make?.check.ignored ?? [];
    // It may have moved a little since: of its kind the nearest is let go.
    const away = own.map((other) => (other.code === code && other.layer === layer && other.item === item ? Math.hypot((other.x ?? 0) - (one.known.x ?? 0), (other.y ?? 0) - (one.known.y ?? 0)) : Infinity));
    const nearest = away.indexOf(Math.min(...away));
    void job.changeMake("check", { ignored: own.filter((_, i) => i !== nearest) });
  }

  function limit(next: MaterialLimits): void {
    const own = job.make?.check.limits ?? [];
    void job.changeMake("check", { limits: [...own.filter(({ kind }) => kind !== next.kind), next] });
  }

  const forget = (kind: MaterialLimits["kind"]): void =>
    void job.changeMake("check", { limits: (job.make?.check.limits ?? []).filter((one) => one.kind !== kind) });

  // Whoever leaves the step while the pointer is on a repair has not taken it.
  watch(active, (now) => {
    if (!now) lookAway();
  });
  watch([() => job.kept?.id, () => job.kept?.moves, () => job.work, () => job.unsent, () => job.result?.preview], () => void load(), { immediate: true });
  watch(() => job.kept?.id, () => {
    found.value = null;
    picked.value = -1;
    error.value = null;
  });

  return { found, working, error, picked, active, groups, ignored, scene, isFresh, load, pick, pickFollowing, at, look, lookAway, mend, apply, ignore, heed, limit, forget };
});
