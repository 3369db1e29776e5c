/** The steps on the bench in working order. The last one hands the file over and has no settings. */

export const COURSE = ["picture", "background", "colours", "lines", "pieces", "arrange", "layers", "sheets", "check", "export"] as const;
export type Step = (typeof COURSE)[number];

/** Those that concern all items together. */
export const MAKE_STEPS: ReadonlySet<Step> = new Set<Step>(["arrange", "layers", "sheets", "check", "export"]);

/** What a side of the stage can show. */
export const STATES = ["picture", "background", "colours", "pixels", "made_up", "cut_lines", "alone", "spread", "variant"] as const;
export type StageState = (typeof STATES)[number];

/** What the picture is seen on where its background is gone. */
export const CLEARED_ON = ["hatch", "base", "mask"] as const;
export type ClearedOn = (typeof CLEARED_ON)[number];

/** What each step wants to be seen against the picture. */
export const STATE_OF_STEP: Record<Step, StageState> = {
  picture: "made_up",
  background: "background",
  colours: "colours",
  lines: "cut_lines",
  pieces: "made_up",
  arrange: "made_up",
  layers: "made_up",
  sheets: "made_up",
  check: "made_up",
  export: "made_up",
};
