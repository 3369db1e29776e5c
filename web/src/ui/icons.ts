/** A small set of our own: 18 × 18 strokes. */
export const ICONS = {
  undo: "M4 8h7.5a3.500 3.500 0 0 1 0 7H8M7 4.500 3.500 8 7 11.500",
  redo: "M14 8H6.500a3.500 3.500 0 0 0 0 7H10M11 4.500 14.500 8 11 11.500",
  history: "M9 3.500a5.500 5.500 0 1 1-5.300 4M3 4v3.800h3.800M9 6v3.400l2.300 1.600",
  turn: "M3 9h12M9 3v12M12.500 5.500 15 3M15 3h-2.500M15 3v2.500",
  fit: "M3 6.500V3h3.500M11.500 3H15v3.500M15 11.500V15h-3.500M6.500 15H3v-3.500",
  closer: "M9 4v10M4 9h10",
  farther: "M4 9h10",
  up: "M4.500 11 9 6.500 13.500 11",
  down: "M4.500 7 9 11.500 13.500 7",
  bin: "M4 5.500h10M7.500 5.500V3.500h3v2M5.500 5.500l.7 9.500h5.600l.7-9.500",
  download: "M9 3v8M5.500 8 9 11.500 12.500 8M3.500 14.500h11",
} as const;
export type IconName = keyof typeof ICONS;
