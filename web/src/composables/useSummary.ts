import { computed, type ComputedRef } from "vue";
import { useI18n } from "vue-i18n";

import type { Facts, Result } from "@/api/types";
import type { Step } from "@/core/course";
import { formatPercent, formatSize } from "@/core/units";
import { useCheck } from "@/stores/check";
import { useJob } from "@/stores/job";
import { useSheets } from "@/stores/sheets";
import { useStage } from "@/stores/stage";

const left = (spots: { taken: boolean }[]): number => spots.filter((spot) => !spot.taken).length;

/** One line for each step of what it did. */
export function useSummary(): ComputedRef<Record<Step, string>> {
  const { t } = useI18n();
  const job = useJob();
  const stage = useStage();
  const sheets = useSheets();
  const check = useCheck();

  const size = computed<[number, number]>(() => job.itemResult?.size ?? [0, 0]);

  function of(result: Result, facts: Facts): Record<Step, string> {
    const { picture, background, colours, lines, pieces } = facts;
    const small = colours.palette.filter((entry) => entry.small).length;
    const nodes = result.layers.reduce((sum, layer) => sum + layer.nodes, 0);
    const join = (...parts: string[]): string => parts.filter(Boolean).join(", ");
    return {
      picture: t("course.summary.picture", {
        width: picture.width_px, height: picture.height_px, size: formatSize(...size.value, stage.unit),
      }),
      background: join(
        t(`course.summary.background.${background.kind}`, { share: formatPercent(background.share) }),
        left(background.enclosed) ? t("course.summary.enclosed", left(background.enclosed)) : "",
      ),
      colours: join(
        t("course.summary.colours", colours.palette.length),
        small ? t("course.summary.small", small) : "",
        !small && colours.absorbed ? t("course.summary.absorbed", colours.absorbed) : "",
      ),
      lines: ofLines(lines, nodes),
      pieces: join(t("course.summary.pieces", pieces.here), pieces.gone ? t("course.summary.gone", pieces.gone) : ""),
      arrange: t("course.summary.arrange", result.items.length),
      layers: t(`course.summary.layers.${result.build}`, { first: result.layers[0]?.name ?? "" }),
      sheets: ofSheets(result),
      check: check.found ? t("check.summary", check.found.to_look_at) : t("course.waiting"),
      export: t("course.summary.export", result.layers.length),
    };
  }

  /** How near the lines lie is said of those that the program drew. */
  function ofLines(lines: Facts["lines"], nodes: number): string {
    const corrected = (job.course?.lines.corrections.length ?? 0) - lines.left_out.length;
    if (lines.strokes.length) return t("strokes.summary", lines.strokes.length);
    return corrected > 0 ? t("course.summary.linesByHand", { nodes, count: corrected }) : t("course.summary.lines", { nodes, deviation: lines.deviation_mm.toFixed(2) });
  }

  /** A make that is larger than its mat is told before somebody comes to the sheets. */
  function ofSheets(result: Result): string {
    const now = job.make?.sheets;
    if (!now) return "";
    const { carrier } = now;
    const [small, large] = [result.width_mm, result.height_mm].sort((a, b) => a - b) as [number, number];
    const [narrow, long] = [carrier.usable_width_mm, carrier.usable_height_mm].sort((a, b) => a - b) as [number, number];
    if (now.layout === "in_place" && now.split === "none" && (small > narrow || large > long)) return t("sheets.tooLarge", { carrier: carrier.name });
    return sheets.plan && sheets.active ? t("course.summary.sheets", sheets.plan.sheets.length) : carrier.name;
  }

  const waiting = computed(() => {
    const text = job.work === "working" ? t("course.waiting") : "";
    return { picture: text, background: text, colours: text, lines: text, pieces: text, arrange: text, layers: text, sheets: text, check: text, export: text };
  });
  return computed(() => (job.result && job.facts ? of(job.result, job.facts) : waiting.value));
}
