import { useI18n } from "vue-i18n";

import type { Fields } from "@/core/itemChanges";
import { changeOf } from "@/core/pieces";
import { toPlace } from "@/core/placement";
import { useArrange } from "@/stores/arrange";
import { useJob } from "@/stores/job";
import { usePieces } from "@/stores/pieces";
import { useStage } from "@/stores/stage";

/** Make an item of the pieces that are picked: it lies where they lay, and is picked in Arrange. */
export function useLift(): () => Promise<void> {
  const { t } = useI18n();
  const job = useJob();
  const pieces = usePieces();
  const arrange = useArrange();
  const stage = useStage();

  return async () => {
    const rows = pieces.pickedRows.filter((row) => row.colour);
    const [map, source] = [pieces.placement, job.item];
    if (!rows.length || !map || !source) return;
    const corners = rows.flatMap(({ box: [left, top, right, bottom] }) => [{ x: left, y: top }, { x: right, y: bottom }]);
    const [xs, ys] = [corners.map(({ x }) => x), corners.map(({ y }) => y)];
    const middle = toPlace(map, { x: (Math.min(...xs) + Math.max(...xs)) / 2, y: (Math.min(...ys) + Math.max(...ys)) / 2 });
    const [ox = 0, oy = 0] = job.result?.origin ?? [];
    const largest = rows.reduce((best, row) => (row.area > best.area ? row : best));
    const came = await job.addItem({
      kind: "lifted", name: t("pieces.lifted", { name: source.name }).slice(0, 80),
      fields: {
        made: { source: source.id, colour: largest.colour.slice(0, 7) },
        place: { x_mm: middle.x + ox, y_mm: middle.y + oy, turn_deg: source.place.turn_deg, mirrored: source.place.mirrored },
      },
      stroke: [], mm_per_px: 0.1, lifts: rows.map((row) => changeOf(row, "lift") as unknown as Fields),
    });
    pieces.pick(-1, false);
    if (!came.length) return;
    stage.openStep("arrange");
    arrange.pick(came);
  };
}
