/** Which item lies under the pointer: the topmost one that has something there. */

import type { Point } from "@/core/nodeGrid";
import { toShare } from "@/core/placement";

import type { SceneItem } from "./draw";

export type Hittable = Pick<SceneItem, "id" | "outline" | "placement" | "raster" | "tall" | "images">;

const REACH_PX = 5; // thin things can be picked beside them, too
let probe: CanvasRenderingContext2D | null = null;

function pen(): CanvasRenderingContext2D | null {
  if (!probe) {
    const canvas = document.createElement("canvas");
    canvas.width = canvas.height = 1;
    probe = canvas.getContext("2d", { willReadFrequently: true });
  }
  return probe;
}

/** items: lowest first. px: a stage pixel in mm. Returns the item's id, or nothing. */
export function itemAt(page: Point, items: readonly Hittable[], px: number): string {
  for (const item of [...items].reverse()) if (item.outline ? onOutline(page, item, px) : onPicture(page, item)) return item.id;
  return "";
}

function onOutline(page: Point, { outline, placement }: Hittable, px: number): boolean {
  const own = pen();
  if (!own || !outline) return false;
  const { x, y } = toShare(placement, page);
  own.lineWidth = (2 * REACH_PX * px) / Math.hypot(placement[0], placement[3]);
  return own.isPointInPath(outline, x, y, "evenodd") || own.isPointInStroke(outline, x, y);
}

/** Where the picture's ground is gone there is nothing to pick. */
function onPicture(page: Point, { raster, tall, images }: Hittable): boolean {
  const { x, y } = toShare(raster, page);
  if (x < 0 || x >= 1 || y < 0 || y >= tall) return false;
  const [own, image] = [pen(), images.colours];
  if (!own || !image) return true;
  own.clearRect(0, 0, 1, 1);
  const [u, v] = [Math.floor(x * image.width), Math.floor((y / tall) * image.height)];
  const size = Math.max(1, Math.round(image.width / 100));
  own.drawImage(image, u - Math.floor(size / 2), v - Math.floor(size / 2), size, size, 0, 0, 1, 1);
  return (own.getImageData(0, 0, 1, 1).data[3] ?? 0) > 0;
}
