/** The nodes of a line drawn by hand: moved, taken out, put in. Places in the drawing's own mm. */

import type { DrawnNode } from "@/api/types";

import type { Point } from "./nodeGrid";

export type Handle = "in" | "out";

export function movedNode(nodes: readonly DrawnNode[], at: number, to: Point): DrawnNode[] {
  return nodes.map((node, i) => (i === at ? { ...node, x: to.x, y: to.y } : node));
}

/** A handle moved; the other one of a smooth node turns along. */
export function movedHandle(nodes: readonly DrawnNode[], at: number, handle: Handle, to: Point): DrawnNode[] {
  return nodes.map((node, i) => {
    if (i !== at) return node;
    const [x, y] = [to.x - node.x, to.y - node.y];
    const before = handle === "in" ? [node.in_x, node.in_y] : [node.out_x, node.out_y];
    const other = handle === "in" ? [node.out_x, node.out_y] : [node.in_x, node.in_y];
    const [bx, by, ox, oy] = [...before, ...other] as [number, number, number, number];
    const [was, its, now] = [Math.hypot(bx, by), Math.hypot(ox, oy), Math.hypot(x, y)];
    const smooth = was > 1e-6 && its > 1e-6 && (bx * ox + by * oy) / (was * its) < -0.999;
    const turnedOther = smooth && now > 1e-6 ? [(-x / now) * its, (-y / now) * its] : [ox, oy];
    const [tx, ty] = turnedOther as [number, number];
    return handle === "in"
      ? { ...node, in_x: x, in_y: y, out_x: tx, out_y: ty }
      : { ...node, out_x: x, out_y: y, in_x: tx, in_y: ty };
  });
}

export function withoutNode(nodes: readonly DrawnNode[], at: number): DrawnNode[] {
  return nodes.filter((_, i) => i !== at);
}

/** The nearest place of the line to a point: the node before it, how far along, and how far off. */
export function nearest(nodes: readonly DrawnNode[], closed: boolean, to: Point): { at: number; t: number; away: number } {
  let best = { at: 0, t: 0, away: Infinity };
  for (let i = 0; i < nodes.length - (closed ? 0 : 1); i++) {
    const curve = curveAfter(nodes, i);
    for (let k = 1; k < 32; k++) {
      const { x, y } = pointAt(curve, k / 32);
      const away = Math.hypot(x - to.x, y - to.y);
      if (away < best.away) best = { at: i, t: k / 32, away };
    }
  }
  return best;
}

/** With one more node on the line; the line stays as it is (P. de Casteljau). */
export function withNode(nodes: readonly DrawnNode[], at: number, t: number): DrawnNode[] {
  const [a, b, c, d] = curveAfter(nodes, at);
  const mid = (p: Point, q: Point): Point => ({ x: p.x + (q.x - p.x) * t, y: p.y + (q.y - p.y) * t });
  const [ab, bc, cd] = [mid(a, b), mid(b, c), mid(c, d)];
  const [abc, bcd] = [mid(ab, bc), mid(bc, cd)];
  const m = mid(abc, bcd);
  const node: DrawnNode = { x: m.x, y: m.y, in_x: abc.x - m.x, in_y: abc.y - m.y, out_x: bcd.x - m.x, out_y: bcd.y - m.y };
  const after = (at + 1) % nodes.length;
  const changed = nodes.map((one, i) => {
    let now = one;
    if (i === at) now = { ...now, out_x: ab.x - a.x, out_y: ab.y - a.y };
    if (i === after) now = { ...now, in_x: cd.x - d.x, in_y: cd.y - d.y };
    return now;
  });
  return [...changed.slice(0, at + 1), node, ...changed.slice(at + 1)];
}

type Curve = [Point, Point, Point, Point];

function curveAfter(nodes: readonly DrawnNode[], i: number): Curve {
  const [a, d] = [nodes[i] as DrawnNode, nodes[(i + 1) % nodes.length] as DrawnNode];
  return [a, { x: a.x + (a.out_x ?? 0), y: a.y + (a.out_y ?? 0) }, { x: d.x + (d.in_x ?? 0), y: d.y + (d.in_y ?? 0) }, d];
}

function pointAt([a, b, c, d]: Curve, t: number): Point {
  const o = 1 - t;
  const [w0, w1, w2, w3] = [o * o * o, 3 * o * o * t, 3 * o * t * t, t * t * t];
  return { x: w0 * a.x + w1 * b.x + w2 * c.x + w3 * d.x, y: w0 * a.y + w1 * b.y + w2 * c.y + w3 * d.y };
}

/** SVG path data of a line; of an open one its middle only. */
export function pathOf(nodes: readonly DrawnNode[], closed: boolean): string {
  const parts = nodes[0] ? [`M${nodes[0].x} ${nodes[0].y}`] : [];
  for (let i = 0; i < nodes.length - (closed ? 0 : 1); i++) {
    const [, b, c, d] = curveAfter(nodes, i);
    parts.push(`C${b.x} ${b.y} ${c.x} ${c.y} ${d.x} ${d.y}`);
  }
  return parts.join("") + (closed ? "Z" : "");
}
