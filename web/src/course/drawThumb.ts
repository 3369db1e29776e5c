/** What each step of the make has done, small: one picture for each, not the same again. */

import type { Finding } from "@/api/types";
import { contrast } from "@/core/colour";
import { drawState, PAPER, type Scene } from "@/stage/draw";
import { surroundings } from "@/stage/surroundings";

const STACK_PX = 12; // from the lowest to the topmost
const MOST_RINGS = 12; // more of them would be a blot
const SEAM = "#b8336a";
const OK = "#2c7a56";
type Pen = CanvasRenderingContext2D;

export interface MakeThumb {
  /** Boxes of the items, mm of the page. */
  boxes: readonly (readonly number[])[];
  /** Sheets as they are laid out, mm each; one mat where nobody has looked yet. */
  sheets: readonly { width: number; height: number; colour: string }[];
  /** What the check has found; null while nobody knows. */
  findings: readonly Finding[] | null;
}

/** px: mm of a pixel of the thumbnail. */
function toPage(pen: Pen, { view, pixelRatio }: Scene): number {
  pen.setTransform(pixelRatio * view.scale, 0, 0, pixelRatio * view.scale, pixelRatio * view.x, pixelRatio * view.y);
  return 1 / view.scale;
}
function toThumb(pen: Pen, { pixelRatio }: Scene): void {
  pen.setTransform(pixelRatio, 0, 0, pixelRatio, 0, 0);
}

/** Pieces as they come off the mat: each by itself. */
export function drawApart(pen: Pen, scene: Scene): void {
  drawState(pen, { ...scene, base: PAPER, shapes: [] }, "made_up");
  const px = toPage(pen, scene);
  pen.strokeStyle = PAPER;
  pen.lineWidth = 0.3 * px; // thin writing must stay
  for (const { path, colour } of scene.shapes) {
    pen.fillStyle = colour;
    pen.fill(path, "evenodd");
    pen.stroke(path);
  }
}

/** What lies where. */
export function drawPlaced(pen: Pen, scene: Scene, { boxes }: MakeThumb): void {
  drawState(pen, scene, "made_up");
  const px = toPage(pen, scene);
  pen.setLineDash([2.5 * px, 2 * px]);
  pen.lineWidth = 1.2 * px;
  pen.strokeStyle = SEAM;
  for (const [left = 0, top = 0, right = 0, bottom = 0] of boxes) pen.strokeRect(left, top, right - left, bottom - top);
  pen.setLineDash([]);
}

/** Layers, each a little above the one before. */
export function drawStacked(pen: Pen, scene: Scene): void {
  drawState(pen, { ...scene, shapes: [] }, "made_up");
  const px = toPage(pen, scene);
  const most = Math.min(scene.shapes.length, 8);
  const high = most > 1 ? STACK_PX : 0;
  const [step, small] = [high / Math.max(1, most - 1), 1 - high / scene.size.width];
  const middle = { x: (scene.size.width / 2 - scene.view.x) * px, y: (scene.size.height / 2 - scene.view.y) * px };
  scene.shapes.forEach(({ path, colour }, i) => {
    const lift = (Math.min(i, most - 1) * step - high / 2) * px;
    pen.save();
    pen.translate(middle.x + lift, middle.y - lift);
    pen.scale(small, small);
    pen.translate(-middle.x, -middle.y);
    pen.fillStyle = colour;
    pen.fill(path, "evenodd");
    pen.strokeStyle = contrast(colour, "#000000") > 4 ? "rgb(20 20 20 / 0.4)" : "rgb(255 255 255 / 0.35)";
    pen.lineWidth = 0.5 * px;
    pen.stroke(path);
    pen.restore();
  });
}

/** Sheets beside each other. */
export function drawLaid(pen: Pen, scene: Scene, { sheets }: MakeThumb): void {
  toThumb(pen, scene);
  const side = scene.size.width;
  pen.fillStyle = surroundings().board;
  pen.fillRect(0, 0, side, side);
  const columns = Math.ceil(Math.sqrt(sheets.length));
  const cell = side / columns;
  sheets.forEach(({ width, height, colour }, i) => {
    const scale = (cell - 4) / Math.max(width, height);
    const [w, h] = [width * scale, height * scale];
    pen.fillStyle = colour;
    pen.strokeStyle = "#8d8472";
    pen.lineWidth = 0.8;
    const [x, y] = [(i % columns) * cell + (cell - w) / 2, Math.floor(i / columns) * cell + (cell - h) / 2];
    pen.fillRect(x, y, w, h);
    pen.strokeRect(x, y, w, h);
  });
}

/** Rings where something is to be looked at, a tick where nothing is. */
export function drawChecked(pen: Pen, scene: Scene, { findings }: MakeThumb): void {
  drawState(pen, scene, "made_up");
  if (!findings) return;
  const px = toPage(pen, scene);
  pen.strokeStyle = SEAM;
  const places = findings.flatMap(({ at }) => (at ? [at] : []));
  const many = places.length > MOST_RINGS;
  pen.lineWidth = (many ? 0.8 : 1.6) * px;
  for (const [x = 0, y = 0] of places) {
    pen.beginPath();
    pen.arc(x, y, (many ? 0.8 : 4) * px, 0, 2 * Math.PI);
    pen.stroke();
  }
  if (findings.length) return;
  toThumb(pen, scene);
  const at = scene.size.width - 10;
  pen.fillStyle = OK;
  pen.beginPath();
  pen.arc(at, at, 7.5, 0, 2 * Math.PI);
  pen.fill();
  pen.strokeStyle = PAPER;
  pen.lineWidth = 2;
  pen.beginPath();
  pen.moveTo(at - 3.5, at);
  pen.lineTo(at - 1, at + 3);
  pen.lineTo(at + 3.8, at - 3);
  pen.stroke();
}

/** A sheet of paper with the lines on it. */
export function drawFile(pen: Pen, scene: Scene): void {
  drawState(pen, scene, "cut_lines");
  toThumb(pen, scene);
  const side = scene.size.width;
  pen.fillStyle = surroundings().board;
  pen.beginPath();
  pen.moveTo(side - 12, 0);
  pen.lineTo(side, 0);
  pen.lineTo(side, 12);
  pen.fill();
  pen.strokeStyle = "#8d8472";
  pen.lineWidth = 1;
  pen.beginPath();
  pen.moveTo(side - 12, 0);
  pen.lineTo(side - 12, 12);
  pen.lineTo(side, 12);
  pen.closePath();
  pen.fillStyle = PAPER;
  pen.fill();
  pen.stroke();
}
