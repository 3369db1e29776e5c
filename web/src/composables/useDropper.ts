import { computed, onScopeDispose, type ComputedRef } from "vue";

import { dropColour } from "@/api/jobs";
import type { Point } from "@/core/nodeGrid";
import { useJob } from "@/stores/job";
import { useTools } from "@/stores/tools";

/**
 * A tool that takes colours from the picture on the stage, with a loupe. taken: what is done with one. Taps are answered one after
 * the other, so that each knows what those before it have done; none is answered once another picture is open.
 */
export function useDropper(name: string, taken: (colour: string) => unknown): { isDropping: ComputedRef<boolean>; toggle: () => void } {
  const job = useJob();
  const tools = useTools();
  const isDropping = computed(() => tools.tool?.name === name);
  let answered: Promise<unknown> = Promise.resolve();

  async function drop(at: Point, id: number, itemId: string): Promise<void> {
    const { colour } = await dropColour(id, itemId, at.x, at.y);
    if (colour && job.job?.id === id && job.item?.id === itemId) await taken(colour);
  }

  function tap(at: Point | undefined): void {
    const [id, itemId] = [job.job?.id, job.item?.id];
    if (at && id !== undefined && itemId !== undefined) answered = answered.then(() => drop(at, id, itemId)).catch(job.fail);
  }

  onScopeDispose(() => {
    if (isDropping.value) tools.take(null);
    tools.loupe = null;
  });
  return {
    isDropping,
    toggle: () => tools.toggle({ name, kind: "click", done: ({ points: [at] }) => tap(at), hover: (at) => (tools.loupe = at) }),
  };
}
