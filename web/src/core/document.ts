/** A job's document with a change made that the server has not answered yet. */

import type { ItemsMove, JobDocument, MakeStepKey, StepKey } from "@/api/types";

import { edited, type Edits } from "./edits";
import { withItemChanges, type Fields } from "./itemChanges";

/** What a change is about: a step of a picture, a step of the make, own fields of items, or how items move, which the server works out. */
export type Target =
  | { item: string; step: StepKey }
  | { make: MakeStepKey }
  | { items: Record<string, Fields>; did: string }
  | { how: ItemsMove["how"]; did: ItemsMove["did"] };

export function editedDocument(document: JobDocument, target: Target, edits: Edits): JobDocument {
  if ("make" in target) {
    const make = { ...document.make, [target.make]: edited(document.make[target.make] ?? {}, edits) };
    return { ...document, make };
  }
  if ("how" in target) return document;
  if ("items" in target) return withItemChanges(document, target.items);
  const { item, step } = target;
  const items = document.items.map((one) =>
    one.id === item && one.kind === "picture" ? { ...one, course: { ...one.course, [step]: edited(one.course[step], edits) } } : one,
  );
  return { ...document, items };
}
