import { computed, type ComputedRef } from "vue";
import { useI18n } from "vue-i18n";

import type { Facts, Result } from "@/api/types";
import type { Step } from "@/core/course";
import { formatPercent, formatSize } from "@/core/units";
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
      lines: lines.strokes.length ? t("strokes.summary", lines.strokes.length) : t("course.summary.lines", { nodes, deviation: lines.deviation_mm.toFixed(2) }),
      pieces: join(t("course.summary.pieces", pieces.here), pieces.gone ? t("course.summary.gone", pieces.gone) : ""),
      arrange: t("course.summary.arrange", result.items.length),
      layers: t(`course.summary.layers.${result.build}`, { first: result.layers[0]?.name ?? "" }),
      sheets: sheets.plan && sheets.active ? t("course.summary.sheets", sheets.plan.sheets.length) : (job.make?.sheets.carrier.name ?? ""),
      export: t("course.summary.export", result.layers.length),
    };
  }

  const waiting = computed(() => {
    const text = job.work === "working" ? t("course.waiting") : "";
    return { picture: text, background: text, colours: text, lines: text, pieces: text, arrange: text, layers: text, sheets: text, export: text };
  });
  return computed(() => (job.result && job.facts ? of(job.result, job.facts) : waiting.value));
}
