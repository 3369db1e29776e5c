/** Painting sheets: mats to scale with their usable areas, rulers, and what is cut on them in the colour of its stock. */

import type { Plan, PlanSheet } from "@/api/types";
import { contrast } from "@/core/colour";
import { BETWEEN_MM, type OnTable } from "@/core/sheets";
import { ROLE_COLOURS, type Role } from "@/core/strokes";
import { MM_PER, type Unit } from "@/core/units";
import type { Viewport } from "@/core/viewport";

import { hatchPattern } from "./hatch";
import { surroundings } from "./surroundings";

type Pen = CanvasRenderingContext2D;

export interface PartShape {
  path: Path2D;
  lines: readonly { role: string; path: Path2D }[];
  layer: number;
}

export interface SheetScene {
  plan: Plan;
  parts: readonly PartShape[];
  places: readonly OnTable[];
  view: Viewport;
  size: { width: number; height: number };
  pixelRatio: number;
  unit: Unit;
  /** What is picked, and how far the hand has moved it, mm on the table. */
  picked: { sheet: number; place: number; dx: number; dy: number } | null;
  titles: readonly { title: string; kind: string; note: string }[];
}

const MAT = "#c3bba8";
const SEAM = "#b8336a";

export function drawSheets(pen: Pen, scene: SheetScene): void {
  const { size, pixelRatio } = scene;
  pen.setTransform(pixelRatio, 0, 0, pixelRatio, 0, 0);
  pen.clearRect(0, 0, size.width, size.height);
  pen.fillStyle = surroundings().board;
  pen.fillRect(0, 0, size.width, size.height);
  scene.plan.sheets.forEach((sheet, i) => drawSheet(pen, scene, sheet, i));
  if (scene.picked) drawHeld(pen, scene, scene.picked);
}

function toSheet(pen: Pen, { view, pixelRatio }: SheetScene, at: OnTable): void {
  pen.setTransform(pixelRatio * view.scale, 0, 0, pixelRatio * view.scale, pixelRatio * (view.x + at.x * view.scale), pixelRatio * (view.y + at.y * view.scale));
}

function drawSheet(pen: Pen, scene: SheetScene, sheet: PlanSheet, number: number): void {
  const at = scene.places[number];
  if (!at) return;
  const px = 1 / scene.view.scale;
  toSheet(pen, scene, at);
  pen.fillStyle = MAT;
  pen.strokeStyle = "#8d8472";
  pen.lineWidth = px;
  pen.beginPath();
  pen.roundRect(0, 0, sheet.width, sheet.height, sheet.carrier ? 4 : 0);
  pen.fill();
  pen.stroke();
  const [left, top, width, height] = sheet.usable;
  pen.fillStyle = ground(sheet.colour);
  pen.fillRect(left, top, width, height);
  drawRulers(pen, scene, sheet, px);
  pen.setLineDash([4 * px, 3 * px]);
  pen.strokeStyle = ink(sheet.colour);
  pen.lineWidth = px;
  pen.strokeRect(left, top, width, height);
  pen.setLineDash([]);
  pen.save();
  // What sticks out is seen, but not over the next sheet.
  const beyond = BETWEEN_MM / 2;
  pen.beginPath();
  pen.rect(-beyond, -beyond, sheet.width + 2 * beyond, sheet.height + 2 * beyond);
  pen.clip();
  if (sheet.mirrored) pen.transform(-1, 0, 0, 1, sheet.width, 0);
  sheet.places.forEach((_, place) => {
    if (scene.picked?.sheet === number && scene.picked.place === place) return;
    drawPart(pen, scene, sheet, place, px);
  });
  pen.lineWidth = 1.2 * px;
  pen.strokeStyle = ink(sheet.colour);
  pen.stroke(new Path2D(sheet.marks));
  pen.setLineDash([6 * px, 3 * px]);
  pen.stroke(new Path2D(sheet.waste));
  pen.setLineDash([]);
  pen.restore();
  drawTitle(pen, scene, at, number);
}

function drawPart(pen: Pen, scene: SheetScene, sheet: PlanSheet, place: number, px: number): void {
  const laid = sheet.places[place];
  const shape = laid && scene.parts[laid.part];
  if (!laid || !shape) return;
  const [a, b, c, d, e, f] = laid.matrix;
  pen.save();
  pen.transform(a, d, b, e, c, f);
  const clashes = sheet.clashes.includes(place);
  pen.fillStyle = scene.plan.layers[shape.layer]?.colour ?? sheet.colour;
  pen.fill(shape.path, "evenodd");
  if (clashes) {
    pen.fillStyle = hatchPattern(pen) ?? "#0004";
    pen.globalAlpha = 0.3;
    pen.fill(shape.path, "evenodd");
    pen.globalAlpha = 1;
  }
  pen.lineWidth = (clashes ? 2 : 1) * px;
  pen.strokeStyle = clashes ? SEAM : ink(sheet.colour);
  pen.stroke(shape.path);
  for (const { role, path } of shape.lines) {
    pen.setLineDash(role === "score" ? [5 * px, 3 * px] : []);
    pen.lineWidth = 1.3 * px;
    pen.strokeStyle = role === "draw" ? ink(sheet.colour) : ROLE_COLOURS[role as Role];
    pen.stroke(path);
  }
  pen.setLineDash([]);
  pen.restore();
}

/** What is picked, where the hand holds it, above all sheets. */
function drawHeld(pen: Pen, scene: SheetScene, { sheet: number, place, dx, dy }: NonNullable<SheetScene["picked"]>): void {
  const [sheet, at] = [scene.plan.sheets[number], scene.places[number]];
  if (!sheet || !at) return;
  const px = 1 / scene.view.scale;
  toSheet(pen, scene, { ...at, x: at.x + dx, y: at.y + dy });
  if (sheet.mirrored) pen.transform(-1, 0, 0, 1, sheet.width, 0);
  drawPart(pen, scene, sheet, place, px);
  const laid = sheet.places[place];
  const shape = laid && scene.parts[laid.part];
  if (!laid || !shape) return;
  const [a, b, c, d, e, f] = laid.matrix;
  pen.transform(a, d, b, e, c, f);
  pen.lineWidth = 2.5 * px;
  pen.strokeStyle = SEAM;
  pen.stroke(shape.path);
}

/** Ticks of a centimetre or an inch along the upper and left edge of the usable area, every fifth with its number. */
function drawRulers(pen: Pen, scene: SheetScene, sheet: PlanSheet, px: number): void {
  const step = scene.unit === "mm" ? 10 : MM_PER.in;
  const every = scene.unit === "mm" ? 5 : 1;
  if (step < 5 * px) return;
  const [left, top, width, height] = sheet.usable;
  pen.strokeStyle = "#6f6756";
  pen.lineWidth = px;
  pen.fillStyle = "#5b5445";
  pen.font = `${9.5 * px}px system-ui, sans-serif`;
  const numbered = step * every > 34 * px;
  pen.beginPath();
  for (let k = 0; k * step <= width + 1e-6; k++) tick(left + k * step, top, 0, -1, k);
  for (let k = 0; k * step <= height + 1e-6; k++) tick(left, top + k * step, -1, 0, k);
  pen.stroke();

  function tick(x: number, y: number, dx: number, dy: number, k: number): void {
    const long = k % every === 0;
    const length = Math.min(long ? 5 * px : 3 * px, Math.max(1, dx ? left : top));
    pen.moveTo(x, y);
    pen.lineTo(x + dx * length, y + dy * length);
    const room = (dx ? left : top) > 15 * px;
    if (long && k && numbered && room) {
      pen.textAlign = dx ? "right" : "center";
      pen.fillText(String(scene.unit === "mm" ? 10 * k : k), x + dx * 7 * px, y + (dx ? 3 * px : -7 * px));
    }
  }
}

function drawTitle(pen: Pen, { view, pixelRatio, titles }: SheetScene, at: OnTable, number: number): void {
  const told = titles[number];
  if (!told) return;
  pen.setTransform(pixelRatio, 0, 0, pixelRatio, 0, 0);
  const width = at.width * view.scale;
  if (width < 60) return;
  const [x, y] = [at.x * view.scale + view.x, at.y * view.scale + view.y - 7];
  pen.textAlign = "left";
  pen.fillStyle = surroundings().ink;
  pen.font = "600 13px 'Bricolage Grotesque', system-ui, sans-serif";
  const noteWidth = told.note ? pen.measureText(told.note).width + 14 : 0;
  const whole = told.title + told.kind;
  pen.fillText(pen.measureText(whole).width <= width - noteWidth ? whole : shortened(pen, told.title, width - noteWidth), x, y);
  if (told.note && width > noteWidth + 60) {
    pen.font = "600 12.5px 'Atkinson Hyperlegible', system-ui, sans-serif";
    pen.fillStyle = surroundings().warn;
    pen.textAlign = "right";
    pen.fillText(told.note, x + width, y);
  }
}

function shortened(pen: Pen, text: string, width: number): string {
  if (pen.measureText(text).width <= width) return text;
  let cut = text;
  while (cut.length > 1 && pen.measureText(`${cut}…`).width > width) cut = cut.slice(0, -1);
  return `${cut}…`;
}

/** The material around what is cut: its colour, a little towards the middle so that pieces stand out on it. */
function ground(colour: string): string {
  return mixed(colour, contrast(colour, "#000000") > 9 ? "#000000" : "#ffffff", 0.16);
}

/** A line that is seen on a material. */
function ink(colour: string): string {
  return contrast(colour, "#000000") > 5 ? "rgb(20 20 20 / 0.62)" : "rgb(255 255 255 / 0.72)";
}

function mixed(one: string, other: string, share: number): string {
  const [a, b] = [one, other].map((hex) => Number.parseInt(hex.slice(1), 16)) as [number, number];
  const channel = (shift: number): number => Math.round(((a >> shift) & 255) * (1 - share) + ((b >> shift) & 255) * share);
  return `rgb(${channel(16)} ${channel(8)} ${channel(0)})`;
}
