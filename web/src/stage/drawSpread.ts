/** All layers apart, in the order in which they are put on. */

import { contrast } from "@/core/colour";

import type { Scene } from "./draw";

const GAP_PX = 12;
const LABEL_PX = 18;
const ABOVE_PX = 48; // what the stage's own menus take

/** paint: draws the layers of a scene in mm of the page. */
export function drawSpread(pen: CanvasRenderingContext2D, scene: Scene, paint: (pen: CanvasRenderingContext2D, scene: Scene) => void): void {
  const side = scene.side ?? { x: 0, y: 0, ...scene.size };
  const count = scene.shapes.length;
  const { pixelRatio } = scene;
  pen.setTransform(pixelRatio, 0, 0, pixelRatio, 0, 0);
  pen.fillStyle = scene.base;
  pen.fillRect(side.x, side.y, side.width, side.height);
  const [width, height] = scene.pageSize ?? [0, 0];
  if (!count || !width || !height) return;
  const above = scene.side ? ABOVE_PX : 0;
  const room = { width: side.width - GAP_PX, height: side.height - above - GAP_PX };
  const { columns, scale } = inCells(count, room, width, height);
  const rows = Math.ceil(count / columns);
  const cell = { width: room.width / columns, height: room.height / rows };
  const ink = contrast(scene.base, "#000000") > 6 ? "#26323d" : "#fbf8f1";
  scene.shapes.forEach((shape, i) => {
    const left = side.x + GAP_PX / 2 + (i % columns) * cell.width;
    const top = side.y + above + Math.floor(i / columns) * cell.height;
    const x = left + (cell.width - width * scale) / 2;
    const y = top + LABEL_PX + (cell.height - LABEL_PX - height * scale) / 2;
    pen.setTransform(pixelRatio, 0, 0, pixelRatio, 0, 0);
    pen.fillStyle = ink;
    pen.font = "600 12.5px 'Atkinson Hyperlegible', system-ui, sans-serif";
    pen.textAlign = "center";
    pen.fillText(`${i + 1}`, x + (width * scale) / 2, y - 5);
    pen.setTransform(pixelRatio * scale, 0, 0, pixelRatio * scale, pixelRatio * x, pixelRatio * y);
    pen.setLineDash([4 / scale, 4 / scale]);
    pen.lineWidth = 0.7 / scale;
    pen.strokeStyle = ink;
    pen.globalAlpha = 0.35;
    pen.strokeRect(0, 0, width, height);
    pen.globalAlpha = 1;
    pen.setLineDash([]);
    paint(pen, { ...scene, shapes: [shape], view: { scale, x, y } });
  });
}

/** As many columns as let the page be drawn largest. */
function inCells(count: number, room: { width: number; height: number }, width: number, height: number): { columns: number; scale: number } {
  let best = { columns: 1, scale: 0 };
  for (let columns = 1; columns <= count; columns++) {
    const rows = Math.ceil(count / columns);
    const scale = Math.min((room.width / columns - GAP_PX) / width, (room.height / rows - LABEL_PX - GAP_PX) / height);
    if (scale > best.scale) best = { columns, scale };
  }
  return { ...best, scale: Math.max(best.scale, 1e-3) };
}
