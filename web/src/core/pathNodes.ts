/** Nodes of path data as the server writes it: absolute M, L, C and Z only. */

export interface PathNodes {
  /** x, y of every node, one after the other, mm. */
  places: Float32Array;
  /** For every node its two handles, the one before and the one behind: four numbers, NaN where a side is straight. */
  handles: Float32Array;
}

const COMMAND = /([MLCZ])([^MLCZ]*)/g;
const SAME = 1e-6;

export function pathNodes(data: string): PathNodes {
  const places: number[] = [];
  const handles: number[] = [];
  let start = 0;

  function node(x: number, y: number, before: [number, number]): void {
    places.push(x, y);
    handles.push(...before, NaN, NaN);
  }

  for (const [, command, numbers] of data.matchAll(COMMAND)) {
    const values = (numbers ?? "").split(/[ ,]/).filter(Boolean).map(Number);
    const [x = 0, y = 0] = values.slice(-2);
    if (command === "M") {
      start = places.length / 2;
      node(x, y, [NaN, NaN]);
    } else if (command === "L") {
      node(x, y, [NaN, NaN]);
    } else if (command === "C") {
      handles.splice(handles.length - 2, 2, values[0] ?? NaN, values[1] ?? NaN);
      node(x, y, [values[2] ?? NaN, values[3] ?? NaN]);
    } else {
      closeRing();
    }
  }

  /** The end of a ring is its start: one node. */
  function closeRing(): void {
    const last = places.length / 2 - 1;
    if (last <= start) return;
    const [x, y, u, v] = [places[2 * start], places[2 * start + 1], places[2 * last], places[2 * last + 1]] as number[];
    if (Math.abs((x as number) - (u as number)) > SAME || Math.abs((y as number) - (v as number)) > SAME) return;
    handles.splice(4 * start, 2, handles[4 * last] as number, handles[4 * last + 1] as number);
    places.length -= 2;
    handles.length -= 4;
  }

  return { places: Float32Array.from(places), handles: Float32Array.from(handles) };
}
