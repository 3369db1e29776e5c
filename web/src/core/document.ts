/** A job's document with a change made that the server has not answered yet. */

import type { JobDocument, MakeStepKey, StepKey } from "@/api/types";

import { edited, type Edits } from "./edits";

/** What a change is about: a step of an item, or a step of the make. */
export type Target = { item: string; step: StepKey } | { make: MakeStepKey };

export function editedDocument(document: JobDocument, target: Target, edits: Edits): JobDocument {
  if ("make" in target) {
    const make = { ...document.make, [target.make]: edited(document.make[target.make] ?? {}, edits) };
    return { ...document, make };
  }
  const { item, step } = target;
  const items = document.items.map((one) =>
    one.id === item ? { ...one, course: { ...one.course, [step]: edited(one.course[step], edits) } } : one,
  );
  return { ...document, items };
}
