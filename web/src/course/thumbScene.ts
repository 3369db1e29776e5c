/** A scene without anything on it, for a thumbnail. */

import type { Viewport } from "@/core/viewport";
import type { Scene } from "@/stage/draw";

/** side: px of the page; the canvas is given as many pixels as the screen has. */
export function thumbScene(canvas: HTMLCanvasElement, side: number, view: Viewport): Scene {
  const pixelRatio = window.devicePixelRatio || 1;
  canvas.width = canvas.height = Math.round(side * pixelRatio);
  canvas.getContext("2d")?.setTransform(pixelRatio, 0, 0, pixelRatio, 0, 0); // grounds are painted in px of the page
  return {
    size: { width: side, height: side }, pixelRatio, view, axis: "x", seamPx: 0, first: "picture", second: "picture", items: [],
    shapes: [], base: "#ffffff", clearedOn: "hatch", hand: null, marks: null, dimmed: null, loupe: null, arrange: null, pieces: null, strokes: null, check: null, cursor: null, measure: null, shown: Infinity, alone: 0, lit: -1, variant: null,
  };
}
