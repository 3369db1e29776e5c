/** Which try-outs another one beats: it is as much like the picture with less work, or more like it with no more. */

interface Judged {
  letter: string;
  tried: { likeness: number; minutes: number } | null;
}

export function beatenOnes(all: readonly Judged[]): ReadonlySet<string> {
  const beaten = new Set<string>();
  for (const { letter, tried } of all) {
    if (!tried) continue;
    const better = all.some(
      ({ tried: other }) =>
        other && other.likeness >= tried.likeness && other.minutes <= tried.minutes &&
        (other.likeness > tried.likeness || other.minutes < tried.minutes),
    );
    if (better) beaten.add(letter);
  }
  return beaten;
}
