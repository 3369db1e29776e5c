import { defineStore } from "pinia";
import { ref, shallowRef } from "vue";

import type { Point } from "@/core/nodeGrid";

/** How a tool was used: places are shares of the picture's width, from its upper left corner. */
export interface Use {
  points: Point[];
  /** How hard the pen pressed at each point, 0 to 1; 0.5 for a mouse. */
  pressures: number[];
  shift: boolean;
}

/** What the pointer does on the stage instead of moving it. */
export interface StageTool {
  name: string;
  kind: "box" | "stroke" | "click";
  /** Width of a stroke, stage px. */
  width?: number;
  colour?: string;
  done: (use: Use) => void;
  hover?: (at: Point | null, shift: boolean) => void;
}

/** Something drawn over the stage: a box, rings around areas, a stroke. */
export interface Mark {
  kind: "box" | "ring" | "stroke";
  points: Point[];
  colour: string;
  /** Share of the picture's width, for a stroke. */
  width?: number;
  strong?: boolean;
  label?: string;
}

export const useTools = defineStore("tools", () => {
  const tool = shallowRef<StageTool | null>(null);
  const marks = shallowRef<Mark[]>([]);
  /** What is looked at for a moment. */
  const glance = shallowRef<Mark[]>([]);
  /** The use under way. */
  const path = shallowRef<Point[]>([]);
  const pressing = ref(false);
  /** Where the picture is shown magnified. */
  const loupe = shallowRef<Point | null>(null);
  /** The ground as it will be, until the full result is there. */
  const ground = shallowRef<ImageBitmap | null>(null);
  /** What a click of the tool in hand would take. */
  const veil = shallowRef<ImageBitmap | null>(null);

  function take(next: StageTool | null): void {
    tool.value?.hover?.(null, false);
    tool.value = next;
    veil.value = null;
    loupe.value = null;
    path.value = [];
    pressing.value = false;
  }

  function toggle(next: StageTool): void {
    take(tool.value?.name === next.name ? null : next);
  }

  function show(next: Mark[]): void {
    marks.value = next;
  }

  return { tool, marks, glance, path, pressing, loupe, ground, veil, take, toggle, show };
});
