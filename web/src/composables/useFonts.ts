import { shallowRef, type ShallowRef } from "vue";

import { bringInFont, fontUrl, getFonts } from "@/api/fonts";
import type { Font } from "@/api/types";

const fonts = shallowRef<Font[]>([]);
const loaded = new Set<string>();

export const familyOf = (id: string): string => `lettering-${id}`;

/** Load a font's file so that its name can be shown in it. */
function load(font: Font): void {
  if (loaded.has(font.id)) return;
  loaded.add(font.id);
  const face = new FontFace(familyOf(font.id), `url(${fontUrl(font.id)})`);
  void face.load().then((done) => document.fonts.add(done), () => loaded.delete(font.id));
}

/** The fonts there are, asked for once. */
export function useFonts(): { fonts: ShallowRef<Font[]>; bringIn: (file: File) => Promise<Font> } {
  if (!fonts.value.length) {
    void getFonts().then((all) => {
      fonts.value = all;
      all.forEach(load);
    }, () => undefined);
  }
  async function bringIn(file: File): Promise<Font> {
    const added = await bringInFont(file);
    fonts.value = [added, ...fonts.value.filter((one) => one.id !== added.id)];
    load(added);
    return added;
  }
  return { fonts, bringIn };
}
