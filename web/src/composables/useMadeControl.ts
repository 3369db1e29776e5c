import { computed, type ComputedRef } from "vue";

import type { Item } from "@/api/types";
import { useArrange } from "@/stores/arrange";
import { useJob } from "@/stores/job";

type MadeItem = Exclude<Item, { kind: "picture" }>;
type MadeOf<K extends MadeItem["kind"]> = Extract<MadeItem, { kind: K }>["made"];

/** What the picked item is made from, with the two ways to change it. */
export function useMadeControl<K extends MadeItem["kind"]>(kind: K): {
  id: ComputedRef<string>;
  made: ComputedRef<MadeOf<K> | undefined>;
  move: (change: Partial<MadeOf<K>>) => void;
  settle: (change: Partial<MadeOf<K>>, did?: string) => void;
} {
  const arrange = useArrange();
  const job = useJob();
  const item = computed(() => (arrange.only?.kind === kind ? (arrange.only as MadeItem) : null));
  const id = computed(() => item.value?.id ?? "");
  return {
    id,
    made: computed(() => item.value?.made as MadeOf<K> | undefined),
    move: (change) => void (id.value && job.tryItems({ [id.value]: { made: change } })),
    settle: (change, did = "made") => void (id.value && job.changeItems({ [id.value]: { made: change } }, did)),
  };
}
