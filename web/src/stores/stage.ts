import { defineStore } from "pinia";
import { computed, ref, watch } from "vue";

import { STATE_OF_STEP, type ClearedOn, type StageState, type Step } from "@/core/course";
import type { Unit } from "@/core/units";
import { fit, pan, toPage, zoomAt, type Size, type Viewport } from "@/core/viewport";

interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** What the stage shows: the open step, both sides, the seam, the viewport. */
export const useStage = defineStore("stage", () => {
  const step = ref<Step>("colours");
  const first = ref<StageState>("picture");
  const second = ref<StageState>("made_up");
  const axis = ref<"x" | "y">("x");
  /** The colour that is lit up, as the image of the colours shows it. */
  const lit = ref<[number, number, number] | null>(null);
  const clearedOn = ref<ClearedOn>("hatch");
  /** Where the seam stands, as a share of the stage. */
  const seam = ref(0.5);
  const size = ref<Size>({ width: 0, height: 0 });
  const page = ref<Box | null>(null);
  const frame = ref<{ x: number; y: number; width: number } | null>(null);
  const view = ref<Viewport>({ scale: 1, x: 0, y: 0 });
  const fitted = ref(1);
  const touched = ref(false);
  /** The pointer that is moved by keys, mm of the page. */
  const cursor = ref<{ x: number; y: number } | null>(null);
  const unit = ref<Unit>(localStorage.getItem("bisectum.unit") === "in" ? "in" : "mm");
  watch(unit, (value) => localStorage.setItem("bisectum.unit", value));

  /** The seam's place on the stage, px. */
  const seamPx = computed(() => seam.value * (axis.value === "x" ? size.value.width : size.value.height));
  /** The seam's place on the page, mm. */
  const seamMm = computed(() => toPage(view.value, { x: seamPx.value, y: seamPx.value })[axis.value]);

  function openStep(next: Step): void {
    step.value = next;
    second.value = STATE_OF_STEP[next];
  }

  function showAll(): void {
    if (!page.value || !size.value.width) return;
    view.value = fit(page.value, size.value);
    fitted.value = view.value.scale;
    touched.value = false;
  }

  /** A new page: the picture stays where it is on the stage, unless the person looks at all of it. picture: its frame, mm. */
  function setPage(next: Box, picture: { x: number; y: number; width: number }): void {
    const before = page.value;
    const frameBefore = frame.value;
    frame.value = picture;
    const same =
      before && (["x", "y", "width", "height"] as const).every((name) => Math.abs(before[name] - next[name]) < 0.05);
    if (same) return;
    page.value = next;
    if (!touched.value || !before || !frameBefore) {
      showAll();
      return;
    }
    const { scale, x, y } = view.value;
    const now = (scale * frameBefore.width) / picture.width;
    view.value = {
      scale: now, x: x + frameBefore.x * scale - picture.x * now, y: y + frameBefore.y * scale - picture.y * now,
    };
    fitted.value = fit(next, size.value).scale;
  }

  /** Keep the view as it is from now on. */
  function hold(): void {
    touched.value = true;
  }

  function setSize(next: Size): void {
    size.value = next;
    if (!page.value) return;
    if (touched.value) fitted.value = fit(page.value, next).scale;
    else showAll();
  }

  function zoom(factor: number, at?: { x: number; y: number }): void {
    const middle = { x: size.value.width / 2, y: size.value.height / 2 };
    view.value = zoomAt(view.value, factor, at ?? middle, fitted.value);
    touched.value = true;
  }

  function move(dx: number, dy: number): void {
    view.value = pan(view.value, dx, dy);
    touched.value = true;
  }

  /** Bring a place of the page, mm, onto the stage if it is not there. */
  function lookAt(place: { x: number; y: number }): void {
    const { scale, x, y } = view.value;
    const at = { x: place.x * scale + x, y: place.y * scale + y };
    if (at.x > 30 && at.y > 30 && at.x < size.value.width - 30 && at.y < size.value.height - 30) return;
    move(size.value.width / 2 - at.x, size.value.height / 2 - at.y);
  }

  function setSeam(share: number): void {
    seam.value = Math.min(1, Math.max(0, share));
  }

  function turnSeam(): void {
    axis.value = axis.value === "x" ? "y" : "x";
  }

  function reset(): void {
    page.value = null;
    frame.value = null;
    touched.value = false;
    cursor.value = null;
    seam.value = 0.5;
  }

  return {
    step, first, second, axis, clearedOn, lit, cursor, seam, size, page, view, fitted, unit, seamPx, seamMm,
    openStep, showAll, setPage, hold, setSize, zoom, move, lookAt, setSeam, turnSeam, reset,
  };
});
