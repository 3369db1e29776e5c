/** Words about the kind of a picture and about pages of ink. */

export const kindWords = {
  is: "Kind of picture",
  by_hand: "You have said so.",
  flat: "It has areas of one colour each.",
  soft: "Its colours change softly nearly everywhere.",
  thin_strokes: "It is thin strokes of one ink on paper.",
  text_lines: "It is thin strokes of one ink, in lines of writing.",
  ruled: "It is writing on a ruled page.",
  level_edges: "Its edges are level or upright to the pixel, over most of the picture.",
};

export const page = {
  intro: "The ink is told from the paper, whatever light falls on it. It is one layer.",
  rules: "{count} rule was taken away. | {count} rules and margin lines were taken away.",
  noRules: "No rules were found on this page.",
  takeRules: "Take rules and margin lines away",
  hand: "The hand",
  hands: { as_written: "As written", smoother: "A little smoother" },
  bolder: "Bolder pen",
  asWritten: "the pen's own width",
  bold: "bold",
  thinnest: "The thinnest strokes can be made wider in the Pieces step: “Thicken to”.",
  specks: "Spots that are no writing",
  speckRules: { leave_out: "Leave out", keep: "Keep" },
  found: "No spot lies beside the writing. | {count} spot lies beside the writing, ringed on the stage. | {count} spots lie beside the writing, ringed on the stage.",
  stays: "Spot {number} stays",
  more: "… and {count} smaller ones.",
};
