import type { VueWrapper } from "@vue/test-utils";

/** Open what lies behind a title. */
export async function unfold(view: VueWrapper, title: string): Promise<void> {
  const fold = view.findAll("details").find((one) => one.find("summary").text().startsWith(title));
  if (!fold) throw new Error(`There is nothing behind “${title}”.`);
  (fold.element as HTMLDetailsElement).open = true;
  await fold.trigger("toggle");
}
