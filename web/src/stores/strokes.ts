import { defineStore } from "pinia";
import { computed, ref, watch } from "vue";

import type { StrokeFacts } from "@/api/types";
import { i18n } from "@/i18n";
import type { Point } from "@/core/nodeGrid";
import { pathNodes } from "@/core/pathNodes";
import { toPlace } from "@/core/placement";
import { SAME, strokeAt, withRole, type Role, type StrokeScene, type StrokeShape } from "@/core/strokes";

import { useJob } from "./job";
import { useStage } from "./stage";

/** The strokes of the open picture while its lines are looked at: what they were taken for, which are picked. */
export const useStrokes = defineStore("strokes", () => {
  const job = useJob();
  const stage = useStage();
  const picked = ref<number[]>([]);
  const hover = ref(-1);

  const facts = computed<StrokeFacts[]>(() => job.facts?.lines.strokes ?? []);
  const active = computed(() => stage.step === "lines" && facts.value.length > 0);
  const shapes = computed<StrokeShape[]>(() => {
    const map = job.itemResult?.placement;
    if (!active.value || !map) return [];
    return facts.value.map(({ points, role, outline }) => ({ role, outline, points: points.map(([x, y]) => toPlace(map, { x, y })) }));
  });
  const scene = computed<StrokeScene | null>(() => (active.value ? { strokes: shapes.value, picked: picked.value, hover: hover.value } : null));
  /** Ends of open strokes of the make, which a rule snaps to: x and y one after the other, mm of the page. */
  const ends = computed<number[][]>(() =>
    (job.result?.layers ?? []).flatMap(({ strokes }) => strokes.map(({ path }) => Array.from(pathNodes(path).places))),
  );
  /** How much is cut, folded and drawn, m. */
  const lengths = computed(() =>
    (["cut", "score", "draw"] as const)
      .map((role) => ({ role, metres: facts.value.filter((own) => own.role === role).reduce((sum, own) => sum + own.length_mm, 0) / 1000 }))
      .filter(({ metres }) => metres > 0)
      .map(({ role, metres }) => `${i18n.global.t(`strokes.roles.${role}`)} ${metres.toFixed(2)} m`)
      .join(", "),
  );
  const pickedFacts = computed(() => picked.value.flatMap((i) => facts.value[i] ?? []));
  watch(() => [job.item?.id, stage.step], () => (picked.value = []));
  watch(facts, (now, before) => {
    // After a change of roles the strokes are new, but lie where they lay.
    const places = now.map(({ points, role, outline }) => ({ role, outline, points: points.map(([x, y]) => ({ x, y })) }));
    const held = picked.value.flatMap((i) => before[i]?.at ?? []);
    const again: number[] = [];
    for (let i = 0; i + 1 < held.length; i += 2) again.push(strokeAt(places, { x: held[i] as number, y: held[i + 1] as number }, SAME));
    picked.value = [...new Set(again.filter((number) => number >= 0))];
    hover.value = -1;
  });

  const at = (place: Point, reach: number): number => strokeAt(shapes.value, place, reach);

  function pick(number: number, add: boolean): void {
    if (number < 0) picked.value = add ? picked.value : [];
    else if (!add) picked.value = [number];
    else picked.value = picked.value.includes(number) ? picked.value.filter((own) => own !== number) : [...picked.value, number];
  }

  function pickAll(role: Role): void {
    picked.value = facts.value.flatMap((own, i) => (own.role === role ? [i] : []));
  }

  function pickFollowing(step: number): void {
    const count = facts.value.length;
    if (count) picked.value = [((picked.value.at(-1) ?? (step > 0 ? -1 : 0)) + step + count) % count];
  }

  function become(role: Role, which: readonly StrokeFacts[] = pickedFacts.value): Promise<unknown> | undefined {
    const settings = job.course?.lines;
    if (!settings || !which.length) return undefined;
    return job.change("lines", { roles: withRole(settings.roles, which, role) });
  }

  return { lengths, facts, active, scene, ends, picked, pickedFacts, hover, at, pick, pickAll, pickFollowing, become };
});
