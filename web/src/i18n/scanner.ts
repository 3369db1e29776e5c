/** Wording of the scanner. */

export const scanner = {
  title: "Scan",
  open: "scan something",
  lead: "This is a stand-in for a flat-bed scanner. Choose what lies on it, or draw an area on the glass.",
  glass: "The glass of the scanner at a first look; draw an area on it",
  put: "Put pictures of your own on the glass",
  takeOff: "Take {name} off the glass",
  off: "Take off",
  x: "From left",
  y: "From top",
  width: "Width",
  height: "Height",
  dpi: "Resolution",
  seen: "Seen in",
  colour: "Colour",
  grey: "Grey",
  draw: "Nothing is chosen yet.",
  enough: "{size} at {dpi} dpi: {width} × {height} pixels, enough for a make of {make} {unit}.",
  tooMuch: "{size} at {dpi} dpi: {width} × {height} pixels, {millions} million. {most} million are the most: take a smaller area or a coarser resolution.",
  scan: "Scan",
  busy: "Scanning",
};
