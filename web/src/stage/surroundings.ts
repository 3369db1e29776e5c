/** What surrounds sheets and pictures on a canvas, by day and by lamplight. What is cut keeps its colours. */

import { ref } from "vue";

interface Surroundings {
  board: string;
  /** Words on the board. */
  ink: string;
  warn: string;
  /** "Nothing here": its ground and its stitches. */
  hatch: string;
  stitch: string;
}
const DAY: Surroundings = { board: "#d8d0c1", ink: "#26323d", warn: "#8a3b12", hatch: "#f3eee2", stitch: "#d3c9b4" };
const NIGHT: Surroundings = { board: "#34393d", ink: "#efe9db", warn: "#f2b27c", hatch: "#2b3238", stitch: "#454e56" };

const asked = typeof matchMedia === "function" ? matchMedia("(prefers-color-scheme: dark)") : null;
export const isDark = ref(asked?.matches ?? false);
asked?.addEventListener("change", ({ matches }) => (isDark.value = matches));

export const surroundings = (): Surroundings => (isDark.value ? NIGHT : DAY);
