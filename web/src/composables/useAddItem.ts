import { useI18n } from "vue-i18n";

import type { NewItem } from "@/api/types";
import type { Fields } from "@/core/itemChanges";
import { toPlace } from "@/core/placement";
import { useArrange } from "@/stores/arrange";
import { useHand } from "@/stores/hand";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import { useTools, type Use } from "@/stores/tools";

import { useItemName } from "./useItemName";

/** Bring in what is no picture: it comes to lie in the middle of the page, and is picked. */
export function useAddItem() {
  const { t } = useI18n();
  const arrange = useArrange();
  const job = useJob();
  const stage = useStage();
  const hand = useHand();
  const tools = useTools();
  const { named } = useItemName();

  async function add(kind: NewItem["kind"], name: string, fields: Fields, rest: Partial<NewItem> = {}): Promise<void> {
    if (kind !== "drawn") tools.take(null); // the pen goes on drawing lines, and gives way to everything else
    await arrange.pickComing(job.addItem({ kind, name: named(name), fields, stroke: [], mm_per_px: 0.1, lifts: [], ...rest }));
  }

  const addLettering = (): Promise<void> =>
    add("lettering", t("arrange.names.lettering"), { made: { text: t("arrange.newText"), font: "nunito" } });
  const addShape = (): Promise<void> => add("shape", t("arrange.shape.heart"), { made: { form: "heart" } });
  const addBorder = (): Promise<void> => add("border", t("arrange.names.border"), { made: {} });

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
    await add("drawn", t("arrange.names.drawn"), {}, { stroke, mm_per_px: 1 / stage.view.scale });
  }

  return { addLettering, addShape, addBorder, draw };
}
