/** The window onto the page: how millimetres become pixels of the stage. */

export interface Viewport {
  /** Stage pixels per millimetre. */
  scale: number;
  /** Where the page's upper left corner lies on the stage, px. */
  x: number;
  y: number;
}

export interface Size {
  width: number;
  height: number;
}

export const boxOf = ([left, top, right, bottom]: readonly number[]): { x: number; y: number; width: number; height: number } => ({
  x: left ?? 0, y: top ?? 0, width: (right ?? 0) - (left ?? 0), height: (bottom ?? 0) - (top ?? 0),
});

export const GREATEST_ZOOM = 64;

/** The viewport that shows a box in mm as large as the stage allows. */
export function fit(box: { x: number; y: number; width: number; height: number }, stage: Size, margin = 44): Viewport {
  const scale = Math.min(
    Math.max(20, stage.width - 2 * margin) / box.width,
    Math.max(20, stage.height - 2 * margin) / box.height,
  );
  return {
    scale,
    x: (stage.width - box.width * scale) / 2 - box.x * scale,
    y: (stage.height - box.height * scale) / 2 - box.y * scale,
  };
}

/** Zoom about a point of the stage, within a quarter and 64 times of the fitted scale. */
export function zoomAt(view: Viewport, factor: number, at: { x: number; y: number }, fitted: number): Viewport {
  const scale = Math.min(fitted * GREATEST_ZOOM, Math.max(fitted / 4, view.scale * factor));
  const ratio = scale / view.scale;
  return { scale, x: at.x - (at.x - view.x) * ratio, y: at.y - (at.y - view.y) * ratio };
}

export function pan(view: Viewport, dx: number, dy: number): Viewport {
  return { ...view, x: view.x + dx, y: view.y + dy };
}

export function toPage(view: Viewport, point: { x: number; y: number }): { x: number; y: number } {
  return { x: (point.x - view.x) / view.scale, y: (point.y - view.y) / view.scale };
}
