/** Words of the Picture step: the frame and the light of what came in. */

export const picture = {
  intro: "{format}, {width} × {height} pixels.",
  enough: "At this size a millimetre has {count} pixels: enough for clean lines.",
  few: "At this size a millimetre has only {count} pixels, so edges get soft. A larger picture or a smaller make helps.",
  width: "Finished width",
  smaller: "smaller",
  larger: "larger",
  unit: "Shown in",
  measured: "The width is that of",
  natural: "File's own size",
};

export const frame = {
  title: "Which part, which way up",
  crop: "Crop",
  leave: "Leave it",
  how: "Drag a box on the stage around what is to be used. Marks made later stay on their places.",
  shown: "Use what is on the stage",
  all: "Use all of it again",
  left: "Turn left",
  right: "Turn right",
  flip: "Mirror",
  straighten: "Straighten",
  against: "anticlockwise",
  with: "clockwise",
  enlarge: "More pixels",
};

export const light = {
  title: "Light",
  exposure: "Exposure",
  darker: "darker",
  lighter: "lighter",
  contrast: "Contrast",
  flatter: "flatter",
  harder: "harder",
  black: "Black point",
  white: "White point",
  asIs: "as it is",
  more: "more goes",
  back: "As it came",
};

export const origin = {
  title: "Where it is from",
  source: "Found at",
  sourceHint: "own photo, a shop, an address",
  maker: "Made by",
  use: "It may be used as",
  uses: { unknown: "Not known", own: "Own work", bought: "Bought with a licence", free: "Free if its maker is named" },
  hint: "A note for yourself; it stands on the build sheet.",
};
