/** Changes of one step's settings, as they are sent and as they are made on the spot, before the server has answered. */

export interface Edits {
  /** Fields that are replaced. */
  settings?: object;
  /** Members for the end of lists. */
  add?: Record<string, unknown[]>;
  /** Members that are taken out of lists, by their numbers. */
  take_out?: Record<string, number[]>;
}

/** The settings with the changes made. */
export function edited<T extends object>(settings: T, { settings: fields = {}, add = {}, take_out = {} }: Edits): T {
  const lists: Record<string, unknown[]> = {};
  for (const name of new Set([...Object.keys(add), ...Object.keys(take_out)])) {
    const now = ((settings as Record<string, unknown>)[name] ?? []) as unknown[];
    lists[name] = [...now.filter((_, number) => !take_out[name]?.includes(number)), ...(add[name] ?? [])];
  }
  return { ...settings, ...fields, ...lists };
}
