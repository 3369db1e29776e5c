/** Painting the stage: two states of one job in exact register, divided by the seam. */

import type { ItemResult } from "@/api/types";
import type { ArrangeScene } from "@/core/arrange";
import { NO_IMAGES, type ItemImages } from "@/core/itemImages";
import type { CheckScene } from "@/core/check";
import { contrast, hairline } from "@/core/colour";
import type { ClearedOn, StageState } from "@/core/course";
import type { Point } from "@/core/nodeGrid";
import type { PieceScene } from "@/core/pieces";
import { scaleOf, through, type Placement } from "@/core/placement";
import { ROLE_COLOURS, type Role, type StrokeScene } from "@/core/strokes";
import type { Size, Viewport } from "@/core/viewport";

import { drawArrange } from "./drawArrange";
import { drawCheck } from "./drawCheck";
import { drawCursor } from "./drawCursor";
import { drawHand, type HandScene } from "./drawHand";
import { drawLoupe } from "./drawLoupe";
import { drawMarks, type MarkScene } from "./drawMarks";
import { drawMeasure, type MeasureScene } from "./drawMeasure";
import { drawPieces } from "./drawPieces";
import { drawSpread } from "./drawSpread";
import { drawStrokes } from "./drawStrokes";
import { hatchPattern } from "./hatch";
import { isLarge, showPlate } from "./plate";
import type { LayerShape } from "./shapes";

export const PAPER = "#fbf8f1";
const NODES_FROM_SCALE = 1.6; // px per mm below which nodes would only smear
const NODE_PX = 2.2;

/** An item with its rasters. open: its steps are those shown, so its marks and its veil are. */
export interface SceneItem {
  id: string;
  /** From shares of the width of its rasters to mm of the page; tall: their height against their width. */
  raster: Placement;
  tall: number;
  images: ItemImages;
  /** Of an item that is no picture: its outline in its own mm, its colour, and where it lies. */
  outline: Path2D | null;
  colour: string;
  placement: Placement;
  /** It is not cut itself, but takes away from others: only its outline is shown. */
  takesAway: boolean;
  open: boolean;
  /** The part of the page that is its own, where there are others, mm: their pictures may reach over it. */
  own: [number, number, number, number] | null;
}

/** Items as they are painted. room: between them, mm. */
export function sceneItems(items: readonly ItemResult[], images: Readonly<Record<string, ItemImages>>, room: number): SceneItem[] {
  return items.map(({ id, raster, tall, box: [left, top, right, bottom], placement, outline, colour }) => ({
    id, raster, tall, open: false, takesAway: false, images: images[id] ?? NO_IMAGES, outline: outline ? new Path2D(outline) : null, colour, placement,
    own: items.length > 1 ? [left - room / 2, top - room / 2, right - left + room, bottom - top + room] : null,
  }));
}

export interface Scene {
  size: Size;
  pixelRatio: number;
  view: Viewport;
  axis: "x" | "y";
  seamPx: number;
  first: StageState;
  second: StageState;
  items: SceneItem[];
  shapes: LayerShape[];
  base: string;
  /** What the picture is seen on where its background is gone. */
  clearedOn: ClearedOn;
  /** What the hand is at on the cut lines, while they can be corrected. */
  hand: HandScene | null;
  /** What is marked over both sides; null for a thumbnail. */
  marks: MarkScene | null;
  /** What is dimmed so that one colour stands out. */
  dimmed: ImageBitmap | null;
  /** Where the picture is shown magnified, mm of the page. */
  loupe: Point | null;
  /** What is picked and moved while items are arranged. */
  arrange: ArrangeScene | null;
  /** What is pointed at and picked while pieces are put right. */
  pieces: PieceScene | null;
  /** What strokes are, while that is said. */
  strokes: StrokeScene | null;
  /** What the cut check has found, while it is looked at. */
  check: CheckScene | null;
  /** The pointer that is moved by keys. */
  cursor: Point | null;
  /** A rule laid over both sides. */
  measure: MeasureScene | null;
  /** Width and height of the page, mm. */
  pageSize?: [number, number];
  /** How many layers are put on. */
  shown: number;
  /** The layer that is shown alone, by its place. */
  alone: number;
  /** The layer that all others step back behind, by its place; -1 for none. */
  lit: number;
  /** The make for another cloth. shift: of its page against this one, mm. */
  variant: { shapes: LayerShape[]; base: string; shift: Point } | null;
  /** The part of the stage that a state is seen on, px; all of it where nothing is said. */
  side?: { x: number; y: number; width: number; height: number };
}

type Pen = CanvasRenderingContext2D;

/** atRest: whether there is time to paint a large drawing anew. Returns whether all is sharp. */
export function drawScene(pen: Pen, scene: Scene, atRest: boolean): boolean {
  const { width, height } = scene.size;
  pen.setTransform(scene.pixelRatio, 0, 0, scene.pixelRatio, 0, 0);
  pen.clearRect(0, 0, width, height);
  const upright = scene.axis === "x";
  const sides: [StageState, number, number, number, number][] = upright
    ? [
        [scene.first, 0, 0, scene.seamPx, height],
        [scene.second, scene.seamPx, 0, width - scene.seamPx, height],
      ]
    : [
        [scene.first, 0, 0, width, scene.seamPx],
        [scene.second, 0, scene.seamPx, width, height - scene.seamPx],
      ];
  let sharp = true;
  const large = isLarge(scene.shapes);
  for (const [state, x, y, w, h] of sides) {
    if (w <= 0 || h <= 0) continue;
    pen.save();
    pen.beginPath();
    pen.rect(x, y, w, h);
    pen.clip();
    const held = scene.arrange?.compared?.[x || y ? 1 : 0];
    if (held) drawCompared(pen, scene, state, held);
    else if (scene.arrange?.live) drawLive(pen, scene, state);
    else if (large && isTraced(scene, state)) {
      sharp = showPlate(pen, scene, state, atRest, (own, whole) => drawState(own, { ...whole, hand: null }, state)) && sharp;
      toPage(pen, scene);
      if (state === "cut_lines" && scene.hand) drawHand(pen, scene.hand, 1 / scene.view.scale);
    } else drawState(pen, { ...scene, side: { x, y, width: w, height: h } }, state);
    pen.restore();
  }
  const open = scene.items.find((item) => item.open);
  if (open) drawVeil(pen, scene, open, scene.dimmed, "rgb(251 248 241 / 0.84)");
  if (scene.loupe && open) drawLoupe(pen, scene, open, scene.loupe);
  if (scene.pieces) {
    toPage(pen, scene);
    drawPieces(pen, scene.pieces, 1 / scene.view.scale);
  }
  if (scene.strokes) {
    toPage(pen, scene);
    drawStrokes(pen, scene.strokes, 1 / scene.view.scale);
  }
  if (scene.marks) {
    if (open) drawVeil(pen, scene, open, scene.marks.veil, "rgb(184 51 106 / 0.5)");
    toPage(pen, scene);
    drawMarks(pen, scene.marks, 1 / scene.view.scale);
  }
  if (scene.check) {
    toPage(pen, scene);
    drawCheck(pen, scene.check, 1 / scene.view.scale);
  }
  if (scene.measure) {
    toPage(pen, scene);
    drawMeasure(pen, scene.measure, 1 / scene.view.scale);
  }
  if (scene.arrange && !scene.arrange.compared) {
    toPage(pen, scene);
    drawArrange(pen, scene.arrange, 1 / scene.view.scale);
  }
  if (scene.cursor) {
    toPage(pen, scene);
    drawCursor(pen, scene.cursor, 1 / scene.view.scale);
  }
  return sharp;
}

/** Whether a state shows lines that are there, painted slowly where there are many. */
function isTraced({ shapes, shown, lit }: Scene, state: StageState): boolean {
  if (state === "colours") return shapes.length > 0 && shapes.every(({ own }) => own !== null);
  return state === "cut_lines" || (state === "made_up" && shown >= shapes.length && lit < 0);
}

/** One state over the whole stage; also used for the thumbnails of the course. */
export function drawState(pen: Pen, scene: Scene, state: StageState): void {
  const { width, height } = scene.size;
  const page = (): void => toPage(pen, scene);
  if (state === "picture") {
    fill(pen, scene, PAPER);
    page();
    for (const item of scene.items) drawImage(pen, scene, item, item.images.picture);
  } else if (state === "background") {
    fill(pen, scene, PAPER);
    const grounds = { hatch: hatchPattern(pen) ?? PAPER, mask: "#16191d", base: scene.base };
    for (const item of scene.items) {
      page();
      if (scene.clearedOn === "mask") {
        pen.save();
        through(pen, item.raster);
        pen.fillStyle = "#ffffff";
        if (!item.outline) pen.fillRect(0, 0, 1, item.tall);
        pen.restore();
      } else drawImage(pen, scene, item, item.images.picture);
      drawVeil(pen, scene, item, item.images.background, grounds[scene.clearedOn]);
    }
  } else if (state === "colours" || state === "pixels") {
    pen.fillStyle = hatchPattern(pen) ?? PAPER;
    pen.fillRect(0, 0, width, height);
    page();
    // The lines, as soon as there are any; colours that are one layer now are told apart by their pixels only.
    if (isTraced(scene, state)) drawMadeUp(pen, { ...scene, shapes: scene.shapes.flatMap((shape) => (shape.own ? [{ ...shape, colour: shape.own }] : [])) });
    else for (const item of scene.items) drawImage(pen, scene, item, item.images.colours);
  } else if (state === "made_up") {
    fill(pen, scene, scene.base);
    page();
    drawMadeUp(pen, scene.shown < scene.shapes.length ? { ...scene, shapes: scene.shapes.slice(0, scene.shown) } : scene);
    const lit = scene.shapes[scene.lit];
    if (lit) {
      fill(pen, scene, `${scene.base}d0`);
      page();
      drawMadeUp(pen, { ...scene, shapes: [lit] });
    }
  } else if (state === "alone") {
    fill(pen, scene, scene.base);
    page();
    drawMadeUp(pen, { ...scene, shapes: scene.shapes.slice(scene.alone, scene.alone + 1) });
  } else if (state === "spread") {
    drawSpread(pen, scene, drawMadeUp);
  } else if (state === "variant") {
    fill(pen, scene, scene.variant?.base ?? PAPER);
    page();
    if (scene.variant) {
      pen.translate(scene.variant.shift.x, scene.variant.shift.y);
      drawMadeUp(pen, { ...scene, shapes: scene.variant.shapes });
    }
  } else {
    fill(pen, scene, PAPER);
    page();
    drawCutLines(pen, scene);
  }
}

function fill(pen: Pen, scene: Scene, colour: string): void {
  pen.fillStyle = colour;
  pen.fillRect(0, 0, scene.size.width, scene.size.height);
}

/** From here on coordinates are mm of the page. */
function toPage(pen: Pen, scene: Scene): void {
  const { scale, x, y } = scene.view;
  const k = scene.pixelRatio;
  pen.setTransform(k * scale, 0, 0, k * scale, k * x, k * y);
}

function drawImage(pen: Pen, scene: Scene, item: SceneItem, image: ImageBitmap | null): void {
  const { raster, tall, own } = item;
  if (item.outline && !item.takesAway) drawOutline(pen, item, item.colour);
  else if (item.outline) traceOutline(pen, item, 1 / scene.view.scale);
  if (!image) return;
  pen.save();
  if (own) {
    pen.beginPath();
    pen.rect(...own);
    pen.clip();
  }
  // Enlarged pixels are shown as pixels: that is what the lines are held against.
  pen.imageSmoothingEnabled = (scene.view.scale * scene.pixelRatio * scaleOf(raster)) / image.width < 1.5;
  pen.imageSmoothingQuality = "high";
  through(pen, raster);
  pen.drawImage(image, 0, 0, 1, tall);
  pen.restore();
}

/** An item that is no picture, all over in one colour. */
function drawOutline(pen: Pen, { outline, placement }: SceneItem, colour: string): void {
  if (!outline) return;
  pen.save();
  through(pen, placement);
  pen.fillStyle = colour;
  pen.fill(outline, "evenodd");
  pen.restore();
}

/** The outline of an item that takes away from others. px: the size of a stage pixel in mm. */
function traceOutline(pen: Pen, { outline, placement }: SceneItem, px: number): void {
  if (!outline) return;
  pen.save();
  through(pen, placement);
  const own = px / scaleOf(placement);
  pen.setLineDash([6 * own, 4 * own]);
  for (const [width, colour] of [[3.4, "#fffdf8"], [1.4, "#26323d"]] as const) {
    pen.lineWidth = width * own;
    pen.strokeStyle = colour;
    pen.stroke(outline);
  }
  pen.restore();
}

/** One item alone in the middle of the page, to be held against another one on the other side. */
function drawCompared(pen: Pen, scene: Scene, state: StageState, held: { id: string; placement: Placement }): void {
  fill(pen, scene, state === "made_up" ? scene.base : PAPER);
  toPage(pen, scene);
  through(pen, held.placement);
  const item = scene.items.find((one) => one.id === held.id);
  if (item) drawImage(pen, scene, { ...item, own: null, takesAway: false }, state === "picture" ? item.images.picture : item.images.colours);
}

/** All items one over the other while some of them are moved: what is there already, nothing worked out. */
function drawLive(pen: Pen, scene: Scene, state: StageState): void {
  fill(pen, scene, state === "made_up" ? scene.base : PAPER);
  toPage(pen, scene);
  for (const item of scene.items) {
    const moved = scene.arrange?.live?.get(item.id);
    pen.save();
    if (moved) through(pen, moved);
    if (item.takesAway) traceOutline(pen, item, 1 / scene.view.scale);
    else if (item.outline) drawOutline(pen, item, item.colour);
    else drawImage(pen, scene, { ...item, own: null }, state === "picture" ? item.images.picture : item.images.colours);
    pen.restore();
  }
}

let veil: HTMLCanvasElement | null = null;

/** One filling where a mask over an item's picture is set, at the stage's own resolution. */
function drawVeil(pen: Pen, scene: Scene, item: SceneItem, mask: ImageBitmap | null, filling: string | CanvasPattern): void {
  if (!mask) return;
  veil ??= document.createElement("canvas");
  const width = Math.round(scene.size.width * scene.pixelRatio);
  const height = Math.round(scene.size.height * scene.pixelRatio);
  if (veil.width !== width) veil.width = width;
  if (veil.height !== height) veil.height = height;
  const over = veil.getContext("2d");
  if (!over) return;
  over.setTransform(1, 0, 0, 1, 0, 0);
  over.globalCompositeOperation = "source-over";
  over.clearRect(0, 0, width, height);
  toPage(over, scene);
  over.imageSmoothingEnabled = false;
  through(over, item.raster);
  over.drawImage(mask, 0, 0, 1, item.tall);
  over.setTransform(scene.pixelRatio, 0, 0, scene.pixelRatio, 0, 0);
  over.globalCompositeOperation = "source-in";
  over.fillStyle = filling;
  over.fillRect(0, 0, scene.size.width, scene.size.height);
  pen.setTransform(1, 0, 0, 1, 0, 0);
  pen.drawImage(veil, 0, 0);
}

function drawMadeUp(pen: Pen, scene: Scene): void {
  const px = 1 / scene.view.scale;
  for (const { colour, path } of scene.shapes) {
    pen.fillStyle = colour;
    pen.fill(path, "evenodd");
    pen.lineWidth = px;
    pen.strokeStyle = contrast(colour, "#000000") > 4 ? "rgb(20 20 20 / 0.3)" : "rgb(255 255 255 / 0.32)";
    pen.stroke(path);
  }
  drawOpenLines(pen, scene, px);
}

/** What is folded, drawn or cut open, upon the layers. */
function drawOpenLines(pen: Pen, scene: Scene, px: number): void {
  for (const { colour, strokes } of scene.shapes) {
    for (const { role, path } of strokes) {
      pen.setLineDash(role === "score" ? [5 * px, 3 * px] : []);
      pen.lineWidth = (role === "draw" ? 1.6 : 1.2) * px;
      pen.strokeStyle = role === "draw" ? hairline(colour, PAPER) : ROLE_COLOURS[role as Role];
      pen.stroke(path);
    }
  }
  pen.setLineDash([]);
}

function drawCutLines(pen: Pen, scene: Scene): void {
  const px = 1 / scene.view.scale;
  pen.lineWidth = 1.1 * px;
  for (const { colour, path } of scene.shapes) {
    pen.strokeStyle = hairline(colour, PAPER);
    pen.stroke(path);
  }
  drawOpenLines(pen, scene, px);
  if (scene.view.scale >= NODES_FROM_SCALE && scene.marks) drawNodes(pen, scene, px);
  if (scene.hand) drawHand(pen, scene.hand, px);
}

function drawNodes(pen: Pen, scene: Scene, px: number): void {
  const [left, top] = [-scene.view.x / scene.view.scale, -scene.view.y / scene.view.scale];
  const [right, bottom] = [left + scene.size.width / scene.view.scale, top + scene.size.height / scene.view.scale];
  const half = NODE_PX * px;
  for (const { colour, nodes } of scene.shapes) {
    pen.fillStyle = PAPER;
    pen.strokeStyle = hairline(colour, PAPER);
    pen.beginPath();
    const { places } = nodes;
    for (let i = 0; i < places.length; i += 2) {
      const x = places[i] as number;
      const y = places[i + 1] as number;
      if (x < left || x > right || y < top || y > bottom) continue;
      pen.rect(x - half, y - half, 2 * half, 2 * half);
    }
    pen.fill();
    pen.stroke();
  }
}
