/** What is painted of a layer. */

import type { PathNodes } from "@/core/pathNodes";

export interface LayerShape {
  colour: string;
  /** The colour of the picture that it is, "" for what is none (a backing), null where several make one layer. */
  own: string | null;
  path: Path2D;
  nodes: PathNodes;
  strokes: readonly { role: string; path: Path2D }[];
}
