/** What the hand is at on the cut lines: the node under the pointer, those picked with their handles, and a drag. */

import type { NodeHit, Point } from "@/core/nodeGrid";

const ACCENT = "#b8336a";
const CARD = "#fffdf8";
const NODE_PX = 4.5;
const HANDLE_PX = 3.5;

export interface HandScene {
  hover: NodeHit | null;
  picked: NodeHit[];
  drag: { kind: "move" | "handle"; from: Point; to: Point } | null;
}

/** px: the size of a stage pixel in mm. */
export function drawHand(pen: CanvasRenderingContext2D, hand: HandScene, px: number): void {
  pen.lineWidth = 1.2 * px;
  pen.strokeStyle = ACCENT;
  const { hover, picked, drag } = hand;
  if (hover) drawNode(pen, hover, px, false);
  for (const node of picked) drawNode(pen, node, px, true);
  if (!drag || (drag.from.x === drag.to.x && drag.from.y === drag.to.y)) return;
  pen.setLineDash([3 * px, 3 * px]);
  pen.beginPath();
  pen.moveTo(drag.from.x, drag.from.y);
  pen.lineTo(drag.to.x, drag.to.y);
  pen.stroke();
  pen.setLineDash([]);
  dot(pen, drag.to, drag.kind === "move" ? NODE_PX * px : HANDLE_PX * px, ACCENT);
}

function drawNode(pen: CanvasRenderingContext2D, node: NodeHit, px: number, filled: boolean): void {
  for (const handle of node.handles) {
    pen.beginPath();
    pen.moveTo(node.x, node.y);
    pen.lineTo(handle.x, handle.y);
    pen.stroke();
    dot(pen, handle, HANDLE_PX * px, CARD);
  }
  const half = NODE_PX * px;
  pen.fillStyle = filled ? ACCENT : CARD;
  pen.beginPath();
  pen.rect(node.x - half, node.y - half, 2 * half, 2 * half);
  pen.fill();
  pen.stroke();
}

function dot(pen: CanvasRenderingContext2D, { x, y }: Point, radius: number, fill: string): void {
  pen.fillStyle = fill;
  pen.beginPath();
  pen.arc(x, y, radius, 0, 2 * Math.PI);
  pen.fill();
  pen.stroke();
}
