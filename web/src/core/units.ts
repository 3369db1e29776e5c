/** Lengths as people read them. Inside, everything is millimetres. */

export type Unit = "mm" | "in";
export const MM_PER: Record<Unit, number> = { mm: 1, in: 25.4 };

export function toUnit(mm: number, unit: Unit): number {
  return mm / MM_PER[unit];
}

export function fromUnit(value: number, unit: Unit): number {
  return value * MM_PER[unit];
}

export function formatLength(mm: number, unit: Unit): string {
  return unit === "mm" ? mm.toFixed(1) : toUnit(mm, unit).toFixed(2);
}

export function formatSize(widthMm: number, heightMm: number, unit: Unit): string {
  return `${formatLength(widthMm, unit)} × ${formatLength(heightMm, unit)} ${unit}`;
}

export function formatPercent(share: number): string {
  const percent = share * 100;
  return percent < 1 ? `${percent.toFixed(1)} %` : `${Math.round(percent)} %`;
}

export function formatBytes(bytes: number): string {
  return bytes < 1e6 ? `${Math.round(bytes / 1e3)} kB` : `${(bytes / 1e6).toFixed(1)} MB`;
}

/** A number to two places, without the zeros that say nothing. */
export const shortNumber = (value: number): string => String(Math.round(100 * value) / 100);
