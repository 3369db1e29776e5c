/** A job's document with a change made that the server has not answered yet. */

import type { JobDocument, MakeStepKey, StepKey } from "@/api/types";

import { edited, type Edits } from "./edits";
import { withItemChanges, type Fields } from "./itemChanges";

/** What is seen of a change at once: the job's name, a step of a picture or of the make, or own fields of items. */
export type Shown = { name: string } | { item: string; step: StepKey; edits: Edits } | { make: MakeStepKey; edits: Edits } | { items: Record<string, Fields> };

export function editedDocument(document: JobDocument, shown: Shown): JobDocument {
  if ("name" in shown) return { ...document, name: shown.name };
  if ("make" in shown) {
    const make = { ...document.make, [shown.make]: edited(document.make[shown.make] ?? {}, shown.edits) };
    return { ...document, make };
  }
  if ("items" in shown) return withItemChanges(document, shown.items);
  const { item, step, edits } = shown;
  const items = document.items.map((one) =>
    one.id === item && one.kind === "picture" ? { ...one, course: { ...one.course, [step]: edited(one.course[step], edits) } } : one,
  );
  return { ...document, items };
}
