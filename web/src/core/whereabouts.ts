/** Where each colour of a drawing is, as small pictures. */

export type Rgb = [number, number, number];

const OTHERS: Rgb = [192, 184, 168];
const FEW = 0.012; // part of a picture's cells below which a colour is drawn a cell broader, to be seen at all

/** One picture for each of `colours`, RGBA, `side` × `side`: its own places in its colour, other colours grey, the rest clear.
 *
 * data: RGBA of the image of the colours, width × height; what is not clear of it is fitted into the square and stands in its
 * middle. A cell that holds any of a colour shows it, so that the smallest areas are seen.
 */
export function whereabouts(
  data: ArrayLike<number>, width: number, height: number, colours: readonly Rgb[], side: number,
): Uint8ClampedArray<ArrayBuffer>[] {
  const numbers = new Map(colours.map(([red, green, blue], number) => [(red << 16) | (green << 8) | blue, number]));
  let [left, top, right, bottom] = [width, height, 0, 0];
  each(data, width, height, (x, y) => {
    [left, top, right, bottom] = [Math.min(left, x), Math.min(top, y), Math.max(right, x + 1), Math.max(bottom, y + 1)];
  });
  const scale = side / Math.max(right - left, bottom - top, 1);
  const own = colours.map(() => new Set<number>());
  const any = new Set<number>();
  each(data, width, height, (x, y, at) => {
    const column = Math.floor(side / 2 + (x + 0.5 - (left + right) / 2) * scale);
    const cell = Math.floor(side / 2 + (y + 0.5 - (top + bottom) / 2) * scale) * side + column;
    any.add(cell);
    const number = numbers.get(((data[at] ?? 0) << 16) | ((data[at + 1] ?? 0) << 8) | (data[at + 2] ?? 0));
    if (number !== undefined) own[number]?.add(cell);
  });
  return own.map((cells, number) => {
    const picture = new Uint8ClampedArray(4 * side * side);
    for (const cell of any) picture.set([...OTHERS, 255], 4 * cell);
    const broader = cells.size < FEW * side * side ? 1 : 0;
    for (const cell of cells) {
      const [x, y] = [cell % side, Math.floor(cell / side)];
      for (let row = Math.max(0, y - broader); row <= Math.min(side - 1, y + broader); row++) {
        for (let column = Math.max(0, x - broader); column <= Math.min(side - 1, x + broader); column++) {
          picture.set([...(colours[number] ?? OTHERS), 255], 4 * (row * side + column));
        }
      }
    }
    return picture;
  });
}

/** Every pixel that is not clear. */
function each(data: ArrayLike<number>, width: number, height: number, use: (x: number, y: number, at: number) => void): void {
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = 4 * (y * width + x);
      if (data[at + 3] !== 0) use(x, y, at);
    }
  }
}
