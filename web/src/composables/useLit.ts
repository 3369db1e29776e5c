import { onScopeDispose, shallowRef, watch, type Ref, type ShallowRef } from "vue";

const MOST_PX = 1_000_000;

/** A mask of everything but one colour, to dim it: made from the image of the colours whenever another one is lit. */
export function useLit(
  colours: () => ImageBitmap | null,
  lit: Ref<[number, number, number] | null>,
): ShallowRef<ImageBitmap | null> {
  const mask = shallowRef<ImageBitmap | null>(null);
  let alive = true;

  watch([colours, lit], async ([image, colour]) => {
    if (!image || !colour) {
      mask.value = null;
      return;
    }
    const shrink = Math.min(1, Math.sqrt(MOST_PX / (image.width * image.height)));
    const canvas = document.createElement("canvas");
    canvas.width = Math.max(1, Math.round(image.width * shrink));
    canvas.height = Math.max(1, Math.round(image.height * shrink));
    const pen = canvas.getContext("2d", { willReadFrequently: true });
    if (!pen) return;
    pen.imageSmoothingEnabled = false;
    pen.drawImage(image, 0, 0, canvas.width, canvas.height);
    const pixels = pen.getImageData(0, 0, canvas.width, canvas.height);
    const [red, green, blue] = colour;
    const { data } = pixels;
    for (let i = 0; i < data.length; i += 4) {
      const own = data[i + 3] !== 0 && data[i] === red && data[i + 1] === green && data[i + 2] === blue;
      data[i + 3] = own ? 0 : 255;
    }
    const made = await createImageBitmap(pixels);
    if (alive && lit.value === colour) mask.value = made;
  });

  onScopeDispose(() => (alive = false));
  return mask;
}
