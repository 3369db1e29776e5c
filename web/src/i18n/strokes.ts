/** Words about drawings in strokes: cut, folded, drawn. */

export const strokes = {
  intro: "{count} line along the middle of what was drawn. | {count} lines along the middles of what was drawn.",
  summary: "{count} middle line | {count} middle lines",
  way: "Strokes become",
  ways: { filled: "Filled pieces", centre: "Their middle lines" },
  meaning: "Middle lines are",
  meanings: { auto: "A plan: cut and fold", none: "All drawn with a pen" },
  what: "What strokes were taken for",
  roles: { cut: "Cut", score: "Folded", draw: "Drawn", leave: "Left out" },
  become: { cut: "Cut", score: "Fold", draw: "Draw", leave: "Leave out" },
  picked: "Strokes that are picked",
  pickedSo: "One stroke, {length} mm long: | {count} strokes, {length} mm in all:",
  none: "Click a stroke on the stage to say what it is; Shift adds one. Keys: N and P go from one to the next, C cuts, S folds, D draws, Delete leaves out.",
  foldThem: "Fold along them",
  gaps: "Close gaps",
  stayOpen: "as drawn",
  joined: "ends joined",
  asFound: "All as they were found",
  folds: "Folds are",
  foldWays: { score: "Scored", perforate: "Cut in dashes" },
  cutLength: "Cuts",
  gapLength: "Gaps between cuts",
  short: "short",
  long: "long",
};

export const measure = {
  title: "Measure, and set the true size",
  first: "Click where to begin; corners and ends of lines are caught.",
  second: "Click where it ends.",
  told: "{length} {unit} at {degrees}°",
  known: "In truth this is ({unit})",
  panel: "What was measured",
  done: "Put the rule away",
};

export const ready = {
  from: "Lines of {file}, at their real size. Closed ones are pieces, each colour a layer.",
  open: "{count} line does not close: it is cut open. | {count} lines do not close: they are cut open.",
  close: "Close open lines straight",
  unit: "Its numbers are",
  unsized: "This file does not say what its numbers are; they are taken for millimetres. Choose another unit if it comes out too large or too small.",
  units: { mm: "Millimetres", cm: "Centimetres", in: "Inches" },
};

export const strokeFindings = {
  folds_found: "{count} line to fold along. | {count} lines to fold along.",
  inner_lines: "{count} unbroken line lies inside the outline and is cut without parting anything. | {count} unbroken lines lie inside the outline and are cut without parting anything.",
  outline_open: "The outline does not close: {count} end of a line hangs free. Raise “Close gaps” until it does. | The outline does not close: {count} ends of lines hang free. Raise “Close gaps” until it does.",
  strokes_missed: "{count} word about a stroke finds none now. | {count} words about strokes find none now.",
};
