/** A glass held over the picture while a colour is taken from it. */

import type { Point } from "@/core/nodeGrid";
import { toShare } from "@/core/placement";

import type { Scene, SceneItem } from "./draw";

const LOUPE_PX = 52; // its radius
const LOUPE_ZOOM = 9; // stage px for a pixel of the picture

/** The picture's pixels around a place, large, beside it. */
export function drawLoupe(pen: CanvasRenderingContext2D, scene: Scene, item: SceneItem, place: Point): void {
  const image = item.images.picture;
  if (!image) return;
  const share = toShare(item.raster, place);
  const [u, v] = [share.x * image.width, share.y * image.width];
  const at = { x: place.x * scene.view.scale + scene.view.x, y: place.y * scene.view.scale + scene.view.y };
  const x = at.x + (at.x > scene.size.width - 2.6 * LOUPE_PX ? -1.4 : 1.4) * LOUPE_PX;
  const y = at.y + (at.y < 2.6 * LOUPE_PX ? 1.4 : -1.4) * LOUPE_PX;
  pen.setTransform(scene.pixelRatio, 0, 0, scene.pixelRatio, 0, 0);
  pen.save();
  pen.beginPath();
  pen.arc(x, y, LOUPE_PX, 0, 2 * Math.PI);
  pen.fillStyle = "#fbf8f1";
  pen.fill();
  pen.clip();
  pen.imageSmoothingEnabled = false;
  const half = LOUPE_PX / LOUPE_ZOOM;
  pen.drawImage(image, u - half, v - half, 2 * half, 2 * half, x - LOUPE_PX, y - LOUPE_PX, 2 * LOUPE_PX, 2 * LOUPE_PX);
  pen.restore();
  pen.lineWidth = 3;
  pen.strokeStyle = "#26323d";
  pen.beginPath();
  pen.arc(x, y, LOUPE_PX, 0, 2 * Math.PI);
  pen.stroke();
  pen.lineWidth = 1;
  pen.strokeRect(x - LOUPE_ZOOM / 2, y - LOUPE_ZOOM / 2, LOUPE_ZOOM, LOUPE_ZOOM);
}
