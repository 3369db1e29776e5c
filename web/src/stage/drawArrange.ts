/** What is picked while items are arranged: photo corners to pull, a tab to turn by, hairlines, and nodes of a drawn line. */

import { corners, turned, type ArrangeScene, type Frame, type Guide } from "@/core/arrange";
import type { Point } from "@/core/nodeGrid";

export const SEAM = "#b8336a";
const CARD = "#fffdf8";
export const CORNER_PX = 13;
export const TAB_PX = 22; // how far the tab stands off
const NODE_PX = 4.5;

type Pen = CanvasRenderingContext2D;

/** px: the size of a stage pixel in mm. */
export function drawArrange(pen: Pen, scene: ArrangeScene, px: number): void {
  if (scene.hover) outline(pen, scene.hover, px, true);
  for (const frame of scene.picked) {
    outline(pen, frame, px, !scene.handles);
    if (scene.handles) photoCorners(pen, frame, px);
  }
  for (const guide of scene.guides) hairline(pen, guide, px);
  const [only] = scene.picked;
  if (scene.handles && only) {
    tab(pen, only, px);
    if (scene.label) write(pen, scene.label, only, px);
  }
  for (const node of scene.nodes) drawNode(pen, node, px);
}

function trace(pen: Pen, points: Point[]): void {
  pen.beginPath();
  points.forEach(({ x, y }, i) => (i ? pen.lineTo(x, y) : pen.moveTo(x, y)));
  pen.closePath();
}

function outline(pen: Pen, frame: Frame, px: number, dashed: boolean): void {
  trace(pen, corners(frame));
  pen.setLineDash([]);
  pen.lineWidth = 3 * px;
  pen.strokeStyle = "rgb(255 253 248 / 0.7)";
  pen.stroke();
  pen.lineWidth = 1.2 * px;
  pen.strokeStyle = SEAM;
  if (dashed) pen.setLineDash([5 * px, 4 * px]);
  pen.stroke();
  pen.setLineDash([]);
}

/** As those that hold a photograph in an album. */
function photoCorners(pen: Pen, frame: Frame, px: number): void {
  const size = CORNER_PX * px;
  corners(frame).forEach((at, i) => {
    const [u, v] = [i === 0 || i === 3 ? 1 : -1, i < 2 ? 1 : -1];
    const [a, b] = [turned({ x: u * size, y: 0 }, frame.turn), turned({ x: 0, y: v * size }, frame.turn)];
    trace(pen, [at, { x: at.x + a.x, y: at.y + a.y }, { x: at.x + b.x, y: at.y + b.y }]);
    pen.fillStyle = SEAM;
    pen.fill();
    pen.lineWidth = 1.2 * px;
    pen.strokeStyle = CARD;
    pen.stroke();
  });
}

export function tabPlace(frame: Frame, px: number): Point {
  const out = turned({ x: frame.width / 2 + TAB_PX * px, y: 0 }, frame.turn);
  return { x: frame.middle.x + out.x, y: frame.middle.y + out.y };
}

function tab(pen: Pen, frame: Frame, px: number): void {
  const at = tabPlace(frame, px);
  const foot = turned({ x: frame.width / 2, y: 0 }, frame.turn);
  pen.lineWidth = 1.2 * px;
  pen.strokeStyle = SEAM;
  pen.beginPath();
  pen.moveTo(frame.middle.x + foot.x, frame.middle.y + foot.y);
  pen.lineTo(at.x, at.y);
  pen.stroke();
  pen.beginPath();
  pen.arc(at.x, at.y, 7 * px, 0, 2 * Math.PI);
  pen.fillStyle = CARD;
  pen.fill();
  pen.stroke();
  pen.beginPath();
  pen.arc(at.x, at.y, 3.4 * px, -2.4, 1.6);
  pen.stroke();
}

function hairline(pen: Pen, { from, to, gap }: Guide, px: number): void {
  pen.beginPath();
  pen.moveTo(from.x, from.y);
  pen.lineTo(to.x, to.y);
  if (gap) {
    const end = 5 * px;
    const level = Math.abs(to.y - from.y) < Math.abs(to.x - from.x);
    for (const { x, y } of [from, to]) {
      pen.moveTo(x - (level ? 0 : end), y - (level ? end : 0));
      pen.lineTo(x + (level ? 0 : end), y + (level ? end : 0));
    }
  }
  pen.lineWidth = 1 * px;
  pen.strokeStyle = "#2d7f78";
  if (!gap) pen.setLineDash([4 * px, 3 * px]);
  pen.stroke();
  pen.setLineDash([]);
}

function write(pen: Pen, text: string, frame: Frame, px: number): void {
  const lowest = Math.max(...corners(frame).map((p) => p.y));
  pen.font = `700 ${12 * px}px "Atkinson Hyperlegible", sans-serif`;
  pen.textBaseline = "top";
  const width = pen.measureText(text).width + 10 * px;
  const [x, y] = [frame.middle.x - width / 2, lowest + 8 * px];
  pen.fillStyle = CARD;
  pen.fillRect(x, y, width, 18 * px);
  pen.fillStyle = SEAM;
  pen.fillText(text, x + 5 * px, y + 3 * px);
}

function drawNode(pen: Pen, { place, handles, picked }: ArrangeScene["nodes"][number], px: number): void {
  pen.lineWidth = 1.2 * px;
  pen.strokeStyle = SEAM;
  for (const handle of handles) {
    pen.beginPath();
    pen.moveTo(place.x, place.y);
    pen.lineTo(handle.x, handle.y);
    pen.stroke();
    pen.beginPath();
    pen.arc(handle.x, handle.y, 3.5 * px, 0, 2 * Math.PI);
    pen.fillStyle = CARD;
    pen.fill();
    pen.stroke();
  }
  const half = NODE_PX * px;
  pen.beginPath();
  pen.rect(place.x - half, place.y - half, 2 * half, 2 * half);
  pen.fillStyle = picked ? SEAM : CARD;
  pen.fill();
  pen.stroke();
}
