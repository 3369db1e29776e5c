/** The hand on sheets: parts are picked, dragged, turned and sent to other sheets; the table is moved and looked at closer. */

import type { ComputedRef, Ref } from "vue";

import type { Point } from "@/core/nodeGrid";
import { flipped, type OnTable } from "@/core/sheets";
import { toPage } from "@/core/viewport";
import { useSheets } from "@/stores/sheets";

import type { PartShape } from "./drawSheets";
import type { Board } from "./useBoard";

/** From where to where: mm of the table where a part is picked, else px of the stage. */
export interface SheetDrag {
  from: Point;
  to: Point;
  picked: boolean;
}

interface Table {
  canvas: Ref<HTMLCanvasElement | undefined>;
  board: Board;
  drag: Ref<SheetDrag | null>;
  parts: ComputedRef<PartShape[]>;
  places: ComputedRef<OnTable[]>;
}

export function useSheetsPointer({ canvas, board, drag, parts, places }: Table): {
  onDown: (event: PointerEvent) => void;
  onMove: (event: PointerEvent) => void;
  onUp: () => void;
  onCancel: () => void;
  onKey: (event: KeyboardEvent) => void;
} {
  const sheets = useSheets();
  const { view, touched, at, zoom, move, showAll } = board;
  const onTableAt = (point: Point): Point => toPage(view.value, point);

  /** The sheet at a place on the table. */
  function sheetAt(point: Point): number {
    return places.value.findIndex(({ x, y, width, height }) => point.x >= x && point.y >= y && point.x <= x + width && point.y <= y + height);
  }

  /** The part at a place on the table, the topmost first. */
  function partAt(point: Point): { sheet: number; place: number } | null {
    const number = sheetAt(point);
    const [sheet, corner] = [sheets.plan?.sheets[number], places.value[number]];
    const pen = canvas.value?.getContext("2d");
    if (!sheet || !corner || !pen) return null;
    const on = flipped(sheet, { x: point.x - corner.x, y: point.y - corner.y });
    for (let k = sheet.places.length - 1; k >= 0; k--) {
      const [a, b, c, d, e, f] = sheet.places[k]?.matrix ?? [1, 0, 0, 0, 1, 0];
      const shape = parts.value[sheet.places[k]?.part ?? -1];
      const own = new DOMMatrix([a, d, b, e, c, f]).inverse().transformPoint(on);
      pen.setTransform(1, 0, 0, 1, 0, 0);
      if (shape && pen.isPointInPath(shape.path, own.x, own.y, "evenodd")) return { sheet: number, place: k };
    }
    return null;
  }

  function onDown(event: PointerEvent): void {
    if (event.button !== 0) return;
    (event.target as HTMLElement).setPointerCapture(event.pointerId);
    const place = onTableAt(at(event));
    const found = sheets.canMove ? partAt(place) : null;
    sheets.picked = found;
    drag.value = { from: found ? place : at(event), to: found ? place : at(event), picked: found !== null };
  }

  function onMove(event: PointerEvent): void {
    if (!drag.value) return;
    if (drag.value.picked) {
      drag.value = { ...drag.value, to: onTableAt(at(event)) };
      return;
    }
    const next = at(event);
    move(next.x - drag.value.to.x, next.y - drag.value.to.y);
    drag.value = { ...drag.value, to: next };
  }

  function onUp(): void {
    const done = drag.value;
    drag.value = null;
    const own = sheets.picked;
    if (!done?.picked || !own || !sheets.plan) return;
    const by = { x: done.to.x - done.from.x, y: done.to.y - done.from.y };
    if (Math.hypot(by.x, by.y) * view.value.scale < 3) return;
    const onto = sheetAt(done.to);
    const [from, to] = [sheets.plan.sheets[own.sheet], sheets.plan.sheets[onto]];
    const [one, other] = [places.value[own.sheet], places.value[onto]];
    if (!from || !one) return;
    if (!to || !other || to.stock_id !== from.stock_id || to.stock !== from.stock) return; // it springs back
    const shift = { x: by.x + one.x - other.x, y: by.y + one.y - other.y };
    touched.value = true; // the table stays as large as it is seen, whatever the sheets become
    sheets.put({ x: from.mirrored ? -shift.x : shift.x, y: shift.y }, 0, onto);
  }

  /** N and P pick one part after the other. */
  function step(by: number): void {
    const all = (sheets.plan?.sheets ?? []).flatMap(({ places: own }, sheet) => own.map((_, place) => ({ sheet, place })));
    if (!all.length || !sheets.canMove) return;
    const now = all.findIndex((one) => one.sheet === sheets.picked?.sheet && one.place === sheets.picked?.place);
    sheets.picked = all[(now + by + all.length) % all.length] ?? null;
  }

  /** To the next sheet of the same material, to the same place there. */
  function sendOn(): void {
    const all = sheets.plan?.sheets ?? [];
    const from = all[sheets.picked?.sheet ?? -1];
    const own = all.flatMap((sheet, i) => (from && sheet.stock_id === from.stock_id && sheet.stock === from.stock ? [i] : []));
    const next = own[(own.indexOf(sheets.picked?.sheet ?? -1) + 1) % Math.max(1, own.length)];
    if (next !== undefined && own.length > 1) sheets.put({ x: 0, y: 0 }, 0, next);
  }

  function onKey(event: KeyboardEvent): void {
    if (event.ctrlKey || event.metaKey) return;
    const far = event.shiftKey ? 10 : 1;
    const ways: Record<string, Point> = { ArrowLeft: { x: -far, y: 0 }, ArrowRight: { x: far, y: 0 }, ArrowUp: { x: 0, y: -far }, ArrowDown: { x: 0, y: far } };
    const way = ways[event.key];
    const key = event.key.toLowerCase();
    if (way && sheets.laid) {
      const mirrored = sheets.plan?.sheets[sheets.picked?.sheet ?? -1]?.mirrored;
      sheets.put({ x: mirrored ? -way.x : way.x, y: way.y });
    } else if (way) {
      move(-30 * way.x, -30 * way.y);
    } else if (key === "n" || key === "p") step(key === "n" ? 1 : -1);
    else if (key === "r" && sheets.laid) sheets.put({ x: 0, y: 0 }, event.shiftKey ? 15 : 90);
    else if (key === "s" && sheets.laid) sendOn();
    else if (event.key === "Backspace" && sheets.laid) sheets.putBack();
    else if (event.key === "Escape") sheets.picked = null;
    else if (event.key === "+" || event.key === "=") zoom(1.25);
    else if (event.key === "-") zoom(0.8);
    else if (event.key === "Home") showAll();
    else return;
    event.preventDefault();
  }

  return { onDown, onMove, onUp, onCancel: () => (drag.value = null), onKey };
}
