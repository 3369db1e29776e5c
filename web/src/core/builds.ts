/** How layers meet, and what that means for the film of each. */

import type { Build } from "@/api/types";

export const BUILDS: readonly Build[] = ["whole", "lapped", "flush", "stacked"];

/** "Runs on under Red and White", or nothing. names: of the layers above it that it runs on under. */
export function runsUnder(names: readonly string[], t: (key: string, values: { names: string }) => string): string {
  const listed = new Intl.ListFormat("en", { type: "conjunction" }).format(names);
  return names.length ? t("layers.runsUnder", { names: listed }) : "";
}
