/** Wording of the sheet of keys and of how it goes. */

export const help = {
  open: "Keys and how it goes",
  title: "Keys",
  how: "How it goes, in pictures",
  groups: {
    anywhere: "Anywhere on the bench",
    stage: "On the stage",
    cursor: "A hand by keys: C puts a cross on the stage",
    pieces: "Pieces, nodes, places to look at",
    arrange: "Arrange and sheets",
    cutter: "The stand-in cutter",
  },
  keys: {
    anywhere: [
      ["1 … 9, 0", "open a step"],
      ["Ctrl Z", "undo"],
      ["Ctrl Y", "redo"],
      ["?", "this sheet"],
    ],
    stage: [
      ["Arrows", "move"],
      ["+ −", "closer, farther"],
      ["Home", "show all"],
      ["[ ]", "move the seam"],
      ["T", "turn the seam"],
      ["M", "measure"],
      ["Escape", "let go"],
    ],
    cursor: [
      ["Arrows", "1 mm"],
      ["Shift", "ten times as far"],
      ["Alt", "one pixel"],
      ["Space", "click"],
      ["Enter", "press, and let go"],
      ["D", "click twice"],
      ["C", "put it away"],
    ],
    pieces: [
      ["N P", "the next, the one before"],
      ["Shift", "pick one more"],
      ["Alt arrows", "move what is picked"],
      ["Delete", "take it out"],
    ],
    arrange: [
      ["Arrows", "move by ½ mm, with Shift by 5"],
      ["R", "turn a part on its sheet"],
      ["S", "to the next sheet"],
      ["Backspace", "put a part back"],
    ],
    cutter: [
      ["Space", "play, stop"],
      [". ,", "one line on, one back"],
      ["W", "weed"],
    ],
  },
};

export const howItGoes = {
  title: "How it goes",
  lead: "From a picture to layers you can cut, in the order of the bench. Every step can be opened again at any time.",
  back: "Back",
  first: "The short way: drop a picture, press Export, press Download. All between is done for you, and can be changed.",
  steps: {
    picture: ["A picture comes in", "Drop it, paste it, or scan it. Say how large it is to be; it is kept as it came."],
    background: ["The background goes", "What is not cut is taken away, also where it is shut in. Click or stroke what was taken for it by mistake."],
    colours: ["Colours become layers", "Each layer is cut from one material. Pin a colour, merge two, or try a photograph in many ways side by side."],
    lines: ["Lines are drawn", "Smooth and closed, each used by both neighbours, so nothing gapes. Drag the seam: picture on one side, lines on the other."],
    layers: ["Layers meet", "Whole pieces have no holes under what lies on them, lapped ones reach a little way under, flush ones meet edge to edge, stacked card runs on under all. The strip beside the stage shows what lies on what."],
    sheets: ["Sheets are laid", "A sheet for each material, in register, mirrored where it is pressed on."],
    check: ["It is cut, on the screen", "What is too thin is ringed and can be mended; the stand-in cutter cuts the very file you take along."],
    export: ["Files go along", "SVG, PDF, DXF, HPGL or PNG in real millimetres, read back and compared. A build sheet says what is put on in which order."],
  },
};
