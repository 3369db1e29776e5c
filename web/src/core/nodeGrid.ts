/** All nodes of a result in a grid of cells, so that the one under the pointer is found among tens of thousands. */

import type { PathNodes } from "./pathNodes";

export interface Point {
  x: number;
  y: number;
}

export interface NodeHit extends Point {
  /** The handles of the node's two sides, where these are curves. */
  handles: Point[];
}

const PER_CELL = 4;

export class NodeGrid {
  private readonly cells = new Map<number, number[]>();
  private readonly cell: number;
  private readonly flat: { places: Float32Array; handles: Float32Array };
  readonly count: number;

  /** within: left, top, width and height of the part whose nodes count; all of the page without it. */
  constructor(all: PathNodes[], width: number, height: number, within?: readonly [number, number, number, number]) {
    const paths = within ? all.map((own) => nodesWithin(own, within)) : all;
    this.count = paths.reduce((sum, { places }) => sum + places.length / 2, 0);
    this.flat = { places: new Float32Array(2 * this.count), handles: new Float32Array(4 * this.count) };
    let used = 0;
    for (const { places, handles } of paths) {
      this.flat.places.set(places, 2 * used);
      this.flat.handles.set(handles, 4 * used);
      used += places.length / 2;
    }
    this.cell = Math.max(1e-3, Math.sqrt((Math.max(1, width) * Math.max(1, height) * PER_CELL) / Math.max(1, this.count)));
    for (let i = 0; i < this.count; i++) {
      const key = this.key(this.flat.places[2 * i] as number, this.flat.places[2 * i + 1] as number);
      const there = this.cells.get(key);
      if (there) there.push(i);
      else this.cells.set(key, [i]);
    }
  }

  private key(x: number, y: number): number {
    return Math.floor(x / this.cell) * 1_000_003 + Math.floor(y / this.cell);
  }

  /** The nearest node within `reach` of a place, mm. */
  near(at: Point, reach: number): NodeHit | null {
    let best = reach * reach;
    let found = -1;
    const steps = Math.min(24, Math.ceil(reach / this.cell));
    for (let dy = -steps; dy <= steps; dy++) {
      for (let dx = -steps; dx <= steps; dx++) {
        for (const i of this.cells.get(this.key(at.x + dx * this.cell, at.y + dy * this.cell)) ?? []) {
          const away = ((this.flat.places[2 * i] as number) - at.x) ** 2 + ((this.flat.places[2 * i + 1] as number) - at.y) ** 2;
          if (away <= best) [best, found] = [away, i];
        }
      }
    }
    return found < 0 ? null : this.hit(found);
  }

  private hit(i: number): NodeHit {
    const { places, handles } = this.flat;
    const sides = [0, 2]
      .map((side) => ({ x: handles[4 * i + side] as number, y: handles[4 * i + side + 1] as number }))
      .filter(({ x }) => !Number.isNaN(x));
    return { x: places[2 * i] as number, y: places[2 * i + 1] as number, handles: sides };
  }

  /** The node `by` places further on from the one at a place. */
  following(at: Point | null, by: number): NodeHit | null {
    if (!this.count) return null;
    if (!at) return this.hit(0);
    let best = Infinity;
    let found = 0;
    for (let i = 0; i < this.count; i++) {
      const away = ((this.flat.places[2 * i] as number) - at.x) ** 2 + ((this.flat.places[2 * i + 1] as number) - at.y) ** 2;
      if (away < best) [best, found] = [away, i];
    }
    return this.hit((found + by + this.count) % this.count);
  }
}

function nodesWithin({ places, handles }: PathNodes, [left, top, width, height]: readonly [number, number, number, number]): PathNodes {
  const inside: number[] = [];
  for (let i = 0; i < places.length / 2; i++) {
    const [x, y] = [(places[2 * i] as number) - left, (places[2 * i + 1] as number) - top];
    if (x >= 0 && y >= 0 && x <= width && y <= height) inside.push(i);
  }
  if (2 * inside.length === places.length) return { places, handles };
  const take = (from: Float32Array, each: number): Float32Array =>
    Float32Array.from(inside.flatMap((i) => [...from.subarray(each * i, each * (i + 1))]));
  return { places: take(places, 2), handles: take(handles, 4) };
}
