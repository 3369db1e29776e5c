/** Changes of items as they are seen before the server has answered. */

import type { Item, JobDocument } from "@/api/types";

/** Own fields of an item: place, part, made, hidden, name; of a picture width_mm. */
export type Fields = Record<string, unknown>;

/** The document with such changes made, before the server has answered. */
export function withItemChanges(document: JobDocument, changes: Readonly<Record<string, Fields>>): JobDocument {
  const items = document.items.map((item) => {
    const own = changes[item.id];
    if (!own) return item;
    const { width_mm, ...rest } = own;
    let next = { ...item } as Record<string, unknown>;
    for (const [name, value] of Object.entries(rest)) {
      const before = next[name];
      const both = value !== null && typeof value === "object" && !Array.isArray(value) && before !== null && typeof before === "object";
      next[name] = both ? { ...(before as object), ...(value as object) } : value;
    }
    if (width_mm !== undefined && item.kind === "picture") next = { ...next, course: { ...item.course, picture: { ...item.course.picture, width_mm } } };
    return next as unknown as Item;
  });
  return { ...document, items };
}
