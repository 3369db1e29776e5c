import { useI18n } from "vue-i18n";

import type { Change } from "@/api/types";

/** What a change of the history did, in words. */
export function useChangeWords(): (change: Change) => string {
  const { t, te } = useI18n();
  return (change) => {
    if (change.what === "changed_items") return t(`what.did.${String(change.values.did)}`, change.values);
    if (change.what === "repaired") return t("what.repaired", { did: t(`check.repairs.${String(change.values.did)}`) });
    const fields = change.what.startsWith("changed_") ? Object.keys(change.values) : [];
    const only = fields.length === 1 ? `what.${fields[0]}` : "";
    if (fields.length > 1 && fields.includes("treatment")) return t("what.try_out");
    return only && te(only) ? t(only) : t(`what.${change.what}`, change.values);
  };
}
