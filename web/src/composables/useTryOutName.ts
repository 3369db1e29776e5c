import { useI18n } from "vue-i18n";

import { useJob } from "@/stores/job";
import type { TryOut } from "@/stores/tryOuts";

/** What a try-out is called. */
export function useTryOutName(): (one: TryOut) => string {
  const { t } = useI18n();
  const job = useJob();
  return ({ recipe, like, item }) => {
    const kind = t(`tryouts.codes.${recipe.code}`, recipe.values);
    const name = like && !recipe.values.count ? t("tryouts.like", { name: kind, letter: like }) : kind;
    return job.pictures.length > 1 ? t("tryouts.on", { name, picture: item.name }) : name;
  };
}
