import { onScopeDispose, shallowRef, watch, type ShallowRef } from "vue";

import { loadImage } from "@/api/client";
import { imagePath } from "@/api/jobs";
import type { PaletteEntry } from "@/api/types";
import { whereabouts } from "@/core/whereabouts";

const SAMPLED_PX = 240; // along the longer side
const SIDE = 68; // px, for 34 on a fine screen

/** A small picture of where each colour is, as URLs by the colours' keys. key: names the image of the colours. */
export function useWhereabouts(
  key: () => string | undefined, palette: () => readonly PaletteEntry[],
): ShallowRef<Record<string, string>> {
  const urls = shallowRef<Record<string, string>>({});
  let alive = true;

  watch(
    key,
    async (now) => {
      if (!now) return;
      const entries = palette();
      const image = await loadImage(imagePath(now));
      if (!image) return;
      const shrink = Math.min(1, SAMPLED_PX / Math.max(image.width, image.height));
      const [width, height] = [Math.ceil(image.width * shrink), Math.ceil(image.height * shrink)];
      const pen = new OffscreenCanvas(width, height).getContext("2d", { willReadFrequently: true });
      if (!pen || !alive || key() !== now) return;
      pen.imageSmoothingEnabled = false;
      pen.drawImage(image, 0, 0, width, height);
      image.close();
      const { data } = pen.getImageData(0, 0, width, height);
      const pictures = whereabouts(data, width, height, entries.map((entry) => entry.shown), SIDE);
      urls.value = Object.fromEntries(entries.map((entry, number) => [entry.key, urlOf(pictures[number])]));
    },
    { immediate: true },
  );

  onScopeDispose(() => (alive = false));
  return urls;
}

function urlOf(picture: Uint8ClampedArray<ArrayBuffer> | undefined): string {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = SIDE;
  if (picture) canvas.getContext("2d")?.putImageData(new ImageData(picture, SIDE), 0, 0);
  return canvas.toDataURL();
}
