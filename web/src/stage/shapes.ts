/** What is painted of a layer. */

import type { PathNodes } from "@/core/pathNodes";

export interface LayerShape {
  colour: string;
  path: Path2D;
  nodes: PathNodes;
  strokes: readonly { role: string; path: Path2D }[];
}
