import { useI18n } from "vue-i18n";

import type { NewItem } from "@/api/types";
import type { Fields } from "@/core/itemChanges";
import { toPlace } from "@/core/placement";
import { useArrange } from "@/stores/arrange";
import { useHand } from "@/stores/hand";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import { useTools, type Use } from "@/stores/tools";

/** Bring in what is no picture: it comes to lie in the middle of what is seen, and is picked. */
export function useAddItem() {
  const { t } = useI18n();
  const arrange = useArrange();
  const job = useJob();
  const stage = useStage();
  const hand = useHand();
  const tools = useTools();

  const named = (kind: NewItem["kind"]): string => {
    const name = t(`arrange.names.${kind}`);
    const same = job.items.filter((item) => item.name === name || item.name.startsWith(`${name} `)).length;
    return same ? `${name} ${same + 1}` : name;
  };

  async function add(kind: NewItem["kind"], fields: Fields, rest: Partial<NewItem> = {}): Promise<void> {
    const places = Object.fromEntries(Object.entries(arrange.unplaced()).map(([id, own]) => [id, own.place as Fields]));
    const id = await job.addItem({ kind, name: named(kind), fields, places, stroke: [], mm_per_px: 0.1, ...rest });
    if (id) arrange.pick([id]);
  }

  function middle(): Fields {
    const { width_mm: w, height_mm: h, origin } = job.result ?? { width_mm: 0, height_mm: 0, origin: [0, 0] };
    return { x_mm: w / 2 + (origin[0] ?? 0), y_mm: h / 2 + (origin[1] ?? 0) };
  }
  const size = (share: number): number => Math.max(3, Math.round((job.result?.width_mm ?? 100) * share * 2) / 2);

  const addLettering = (): Promise<void> =>
    add("lettering", { made: { text: t("arrange.newText"), font: "nunito", capital_mm: Math.min(500, size(0.09)) }, place: middle() });
  const addShape = (): Promise<void> => add("shape", { made: { form: "heart", width_mm: size(0.3), height_mm: size(0.28) }, place: middle() });
  const addBorder = (): Promise<void> => add("border", { made: {} });

  function draw(): void {
    tools.toggle({ name: "drawn", kind: "stroke", width: 3, done: (use) => void drawn(use) });
  }

  /** A use tells shares of the open picture, or places of the page where there is none. */
  async function drawn({ points }: Use): Promise<void> {
    const origin = job.result?.origin ?? [0, 0];
    const stroke = points.map((one): [number, number] => {
      const { x, y } = job.itemResult ? toPlace(job.itemResult.placement, one) : hand.pageOf(one);
      return [x + (origin[0] ?? 0), y + (origin[1] ?? 0)];
    });
    await add("drawn", {}, { stroke, mm_per_px: 1 / stage.view.scale });
  }

  return { addLettering, addShape, addBorder, draw };
}
