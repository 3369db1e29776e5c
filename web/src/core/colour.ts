/** Colours as #rrggbb and how light they are (relative luminance, WCAG 2.2). */

function channels(hex: string): [number, number, number] {
  const value = Number.parseInt(hex.slice(1), 16);
  return [value >> 16, (value >> 8) & 255, value & 255];
}

export function luminance(hex: string): number {
  const [r, g, b] = channels(hex).map((value) => {
    const share = value / 255;
    return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
  }) as [number, number, number];
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

export function contrast(one: string, other: string): number {
  const [low, high] = [luminance(one), luminance(other)].sort((a, b) => a - b) as [number, number];
  return (high + 0.05) / (low + 0.05);
}

/** A colour readable as a hairline on paper: itself, or darker where it is too pale. */
export function hairline(hex: string, paper: string): string {
  let [r, g, b] = channels(hex);
  let result = hex;
  for (let round = 0; round < 12 && contrast(result, paper) < 3; round++) {
    [r, g, b] = [r * 0.86, g * 0.86, b * 0.86];
    result = `#${[r, g, b].map((v) => Math.round(v).toString(16).padStart(2, "0")).join("")}`;
  }
  return result;
}
