/** A sheet under the stand-in cutter: the material, what is cut so far, the blade, and what stays when the waste is gone. */

import type { CutSheet } from "@/api/types";
import { contrast } from "@/core/colour";
import { along, moveAt, shareOf } from "@/core/cutting";
import type { Size, Viewport } from "@/core/viewport";

import { surroundings } from "./surroundings";

const LINER = "#efe9dc";
const TRAVEL = "rgb(90 97 99 / 0.35)";
const SEAM = "#b8336a";
const DOT_PX = 5;

type Pen = CanvasRenderingContext2D;

export interface CutScene {
  sheet: CutSheet;
  pieces: Path2D;
  time: number;
  /** 0 to 1. */
  weeded: number;
  view: Viewport;
  size: Size;
  pixelRatio: number;
}

/** All lines that are done, as one path that grows as time goes on. */
export class DoneLines {
  private path = new Path2D();
  private travelled = new Path2D();
  private count = 0;

  constructor(private readonly sheet: CutSheet) {}

  /** Paths of all moves before a number. */
  upTo(number: number): { cut: Path2D; travel: Path2D } {
    if (number < this.count) {
      this.path = new Path2D();
      this.travelled = new Path2D();
      this.count = 0;
    }
    for (; this.count < number; this.count++) {
      const move = this.sheet.moves[this.count];
      if (move) trail(move.kind === "travel" ? this.travelled : this.path, move.points);
    }
    return { cut: this.path, travel: this.travelled };
  }
}

function trail(path: Path2D, points: readonly number[]): void {
  for (let i = 0; i + 1 < points.length; i += 2) {
    if (i) path.lineTo(points[i] as number, points[i + 1] as number);
    else path.moveTo(points[i] as number, points[i + 1] as number);
  }
}

export function drawCut(pen: Pen, { sheet, pieces, time, weeded, view, size, pixelRatio }: CutScene, lines: DoneLines): void {
  pen.setTransform(pixelRatio, 0, 0, pixelRatio, 0, 0);
  pen.fillStyle = surroundings().board;
  pen.fillRect(0, 0, size.width, size.height);
  pen.setTransform(pixelRatio * view.scale, 0, 0, pixelRatio * view.scale, pixelRatio * view.x, pixelRatio * view.y);
  const px = 1 / view.scale;
  pen.fillStyle = LINER;
  pen.fillRect(0, 0, sheet.width, sheet.height);
  pen.globalAlpha = 1 - weeded;
  pen.fillStyle = sheet.colour;
  pen.fillRect(0, 0, sheet.width, sheet.height);
  pen.globalAlpha = 1;
  pen.fill(pieces, "evenodd");
  pen.strokeStyle = "#8d8472";
  pen.lineWidth = px;
  pen.strokeRect(0, 0, sheet.width, sheet.height);
  const number = moveAt(sheet.moves, time);
  const isDone = time >= sheet.seconds;
  const { cut, travel } = lines.upTo(isDone ? sheet.moves.length : number);
  const ink = contrast(sheet.colour, "#1d262e") >= 3 ? "#1d262e" : "#fffdf8";
  if (!isDone) {
    pen.strokeStyle = TRAVEL;
    pen.setLineDash([4 * px, 4 * px]);
    pen.stroke(travel);
    pen.setLineDash([]);
  }
  pen.strokeStyle = ink;
  pen.lineWidth = 1.2 * px;
  pen.stroke(cut);
  const move = sheet.moves[number];
  if (!move || isDone) return;
  const places = along(move, shareOf(move, time));
  pen.beginPath();
  places.forEach(({ x, y }, i) => (i ? pen.lineTo(x, y) : pen.moveTo(x, y)));
  pen.strokeStyle = move.kind === "travel" ? TRAVEL : SEAM;
  pen.lineWidth = 2 * px;
  pen.stroke();
  const tip = places.at(-1);
  if (!tip) return;
  pen.beginPath();
  pen.arc(tip.x, tip.y, DOT_PX * px, 0, 2 * Math.PI);
  pen.fillStyle = move.kind === "travel" ? "#fffdf8" : SEAM;
  pen.fill();
  pen.strokeStyle = "#1d262e";
  pen.lineWidth = 1.5 * px;
  pen.stroke();
}
