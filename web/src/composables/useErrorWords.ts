import { useI18n } from "vue-i18n";

import type { ApiError } from "@/api/client";

/** An error's sentence: the catalogue's for its code, or else the server's own. */
export function useErrorWords(): (error: ApiError) => string {
  const { t, te } = useI18n();
  return (error) => (te(`errors.${error.code}`) ? t(`errors.${error.code}`, error.details) : error.message);
}
