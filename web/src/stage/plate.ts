/** Lines of a large drawing, painted once, a little beyond the stage, and shown again where the stage moves to.
 *
 * Painting tens of thousands of segments takes longer than a frame. While the hand moves, what was painted last is moved and
 * stretched; as soon as it rests, the lines are painted anew and are sharp.
 */

import type { StageState } from "@/core/course";
import type { Size, Viewport } from "@/core/viewport";

import type { LayerShape } from "./shapes";

const MANY_NODES = 6000;
const MARGIN = 0.4; // of the stage, on each side

type Pen = CanvasRenderingContext2D;

/** What a plate depends on. */
export interface PlateScene {
  size: Size;
  pixelRatio: number;
  view: Viewport;
  shapes: LayerShape[];
  base: string;
}

interface Plate {
  canvas: HTMLCanvasElement;
  scene: PlateScene;
}

const plates = new Map<StageState, Plate>();

export function isLarge(shapes: LayerShape[]): boolean {
  return shapes.reduce((sum, { nodes }) => sum + nodes.places.length / 2, 0) > MANY_NODES;
}

/** Show a state by its plate. atRest: the plate may be painted anew for this view. Returns whether it is sharp. */
export function showPlate<S extends PlateScene>(
  pen: Pen, scene: S, state: StageState, atRest: boolean, paint: (pen: Pen, scene: S) => void,
): boolean {
  let plate = plates.get(state);
  const stale = !plate || plate.scene.shapes !== scene.shapes || plate.scene.base !== scene.base;
  if (!plate || stale || (atRest && !isSharp(plate, scene))) {
    plate = painted(plate?.canvas ?? document.createElement("canvas"), scene, paint);
    plates.set(state, plate);
  }
  const { view } = plate.scene;
  const stretch = scene.view.scale / view.scale;
  const { width, height } = plate.scene.size;
  pen.setTransform(scene.pixelRatio, 0, 0, scene.pixelRatio, 0, 0);
  pen.drawImage(plate.canvas, scene.view.x - view.x * stretch, scene.view.y - view.y * stretch, width * stretch, height * stretch);
  return isSharp(plate, scene);
}

function isSharp({ scene }: Plate, now: PlateScene): boolean {
  const [x, y] = [scene.view.x - now.view.x, scene.view.y - now.view.y];
  return (
    scene.view.scale === now.view.scale && scene.pixelRatio === now.pixelRatio && x >= 0 && y >= 0 &&
    x + now.size.width <= scene.size.width && y + now.size.height <= scene.size.height
  );
}

function painted<S extends PlateScene>(canvas: HTMLCanvasElement, scene: S, paint: (pen: Pen, scene: S) => void): Plate {
  const [left, top] = [Math.round(MARGIN * scene.size.width), Math.round(MARGIN * scene.size.height)];
  const size = { width: scene.size.width + 2 * left, height: scene.size.height + 2 * top };
  const whole = { ...scene, size, view: { ...scene.view, x: scene.view.x + left, y: scene.view.y + top } };
  canvas.width = Math.round(size.width * scene.pixelRatio);
  canvas.height = Math.round(size.height * scene.pixelRatio);
  const pen = canvas.getContext("2d");
  if (pen) paint(pen, whole);
  return { canvas, scene: whole };
}
