import { computed, type ComputedRef } from "vue";

import { useJob } from "@/stores/job";
import { usePieces } from "@/stores/pieces";

export interface PieceNames {
  /** All colours that pieces of the open picture have, as choices. */
  all: ComputedRef<{ value: string; label: string }[]>;
  of: (colour: string) => string;
}

/** What the layers of pieces are called: by the palette, or as a layer that was made of one. */
export function usePieceNames(): PieceNames {
  const job = useJob();
  const pieces = usePieces();
  const all = computed(() => {
    const palette = job.facts?.colours.palette ?? [];
    const known = new Map(palette.map(({ key, name }) => [key, name]));
    for (const { colour } of pieces.rows) {
      if (!colour || known.has(colour)) continue;
      const layer = job.result?.layers.find((one) => one.holds.some((hold) => hold.item === job.item?.id && hold.colour === colour));
      known.set(colour, layer?.name ?? colour);
    }
    return [...known].map(([value, label]) => ({ value, label }));
  });
  return { all, of: (colour) => all.value.find(({ value }) => value === colour)?.label ?? colour };
}
