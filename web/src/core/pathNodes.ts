/** Nodes of path data as the server writes it: absolute M, L, C and Z only. */

export interface PathNodes {
  /** x, y of every node, one after the other, mm. */
  places: Float32Array;
}

const TOKEN = /([MLC])([^MLCZ]*)/g;

export function pathNodes(data: string): PathNodes {
  const places: number[] = [];
  for (const [, , numbers] of data.matchAll(TOKEN)) {
    const values = (numbers ?? "").split(/[ ,]/).filter(Boolean).map(Number);
    places.push(values.at(-2) ?? 0, values.at(-1) ?? 0);
  }
  return { places: Float32Array.from(places) };
}
