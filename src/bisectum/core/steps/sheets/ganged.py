"""All that is cut from one stock close together: nested by true shape, then put right where a person has laid a hand on it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from bisectum.core.model.shapes_of import moved, shape_of
from bisectum.core.model.sheet import Area, Laid, Part
from bisectum.core.progress import Part as Stretch
from bisectum.core.progress import Progress
from bisectum.core.steps.sheets.board import Board
from bisectum.core.steps.sheets.nest import Demand, Layouts, Nester, Task, Turns, nested, outline_for
from bisectum.core.steps.sheets.settings import ByHand, SheetsSettings

CLOSE_MM = 0.01  # how much nearer than the spacing is no matter
QUARTERS = (0.0, 90.0, 180.0, 270.0)
FARTHEST = 0.05  # shares of the page's width: what a person put somewhere is not looked for farther off
SMALL = 0.5  # share of a window's area that a piece lying in it may have


@dataclass(slots=True)
class Gang:
    """What is laid out together. parts: numbers in `all_parts`; held: by the number of a large part those that lie in its
    windows, with how they lie on its page."""

    all_parts: Sequence[Part]
    parts: list[int]
    area: Area
    settings: SheetsSettings
    turns: Turns
    shapes: dict[tuple[int, int], BaseGeometry] = field(default_factory=dict)
    held: dict[int, list[Laid]] = field(default_factory=dict)
    outlines: dict[tuple[int, int], NDArray[np.float64]] = field(default_factory=dict)

    def shape(self, part: int) -> BaseGeometry:
        """Copies share their pieces, and so their shape."""
        key = self.all_parts[part].original
        if key not in self.shapes:
            self.shapes[key] = shape_of(self.all_parts[part].pieces, self.all_parts[part].strokes)
        return self.shapes[key]

    def outline(self, part: int) -> NDArray[np.float64]:
        """What the nester is given of a part. (N, 2)."""
        key = self.all_parts[part].original
        if key not in self.outlines:
            near = self.settings.together_mm if self.settings.together == "near" else 0.0
            self.outlines[key] = outline_for(self.shape(part), self.settings.spacing_mm, near)
        return self.outlines[key]

    def placed(self, laid: Laid) -> BaseGeometry:
        return moved(self.shape(laid.part), laid.matrix)


def ready(gang: Gang) -> list[int]:
    """The parts that lie on a sheet by themselves: neither larger than one, nor in a window of another part."""
    fitting = [part for part in gang.parts if _fits(gang, part)]
    return _into_windows(gang, fitting) if gang.settings.in_windows else fitting


def too_large(gang: Gang) -> list[int]:
    """The parts that no sheet could take."""
    return [part for part in gang.parts if not _fits(gang, part)]


def close_layout(
    gang: Gang, parts: list[int], by_hand: Sequence[tuple[int, Laid]], nester: Nester, layouts: Layouts, progress: Progress
) -> list[list[Laid]]:
    """What lies on each sheet. parts: those that are `ready`; by_hand: the sheet and place of parts that a person put there.

    Raises: Cancelled.
    """
    return _put_right(gang, _on_sheets(gang, parts, nester, layouts, progress), by_hand)


def clashes(gang: Gang, sheet: Sequence[Laid]) -> list[int]:
    """Numbers of what lies nearer to something else than the spacing, or off the usable area; of two of which one was put there
    by hand, the other one."""
    shapes = [gang.placed(laid) for laid in sheet]
    area = shapely.box(gang.area.left, gang.area.top, gang.area.left + gang.area.width, gang.area.top + gang.area.height)
    found = {k for k, shape in enumerate(shapes) if not area.buffer(CLOSE_MM).covers(shapely.box(*shape.bounds))}
    reach = max(0.0, gang.settings.spacing_mm - CLOSE_MM)
    near = shapely.STRtree(shapes).query(shapes, "dwithin", reach) if shapes else np.empty((2, 0))
    for one, other in near.T.astype(int).tolist():
        if one < other and _is_near(shapes[one], shapes[other], gang.settings.spacing_mm):
            found.add(one if sheet[other].by_hand and not sheet[one].by_hand else other)
    return sorted(found)


def _is_near(one: BaseGeometry, other: BaseGeometry, spacing: float) -> bool:
    if spacing > CLOSE_MM:
        return bool(shapely.dwithin(one, other, spacing - CLOSE_MM))
    return bool(shapely.intersection(one, other).area > CLOSE_MM)


def _fits(gang: Gang, part: int) -> bool:
    """Whether a part lies on the usable area, turned as it may be."""
    left, top, right, bottom = gang.shape(part).bounds
    width, height, area = right - left, bottom - top, gang.area
    if width <= area.width + CLOSE_MM and height <= area.height + CLOSE_MM:
        return True
    if gang.turns is None:
        sides = sorted(_least_box(gang.shape(part)))
        return sides[0] <= min(area.width, area.height) and sides[1] <= max(area.width, area.height)
    return len(gang.turns) > 1 and height <= area.width + CLOSE_MM and width <= area.height + CLOSE_MM


def _least_box(shape: BaseGeometry) -> tuple[float, float]:
    corners = np.asarray(shapely.minimum_rotated_rectangle(shape).exterior.coords)
    return float(np.hypot(*(corners[1] - corners[0]))), float(np.hypot(*(corners[2] - corners[1])))


# Nesting

def task_of(gang: Gang, parts: Sequence[int]) -> Task | None:
    """What the nester is asked for parts. The strip runs down the carrier, so parts are laid a quarter round in it."""
    demands = []
    for numbers in _alike(gang, parts):
        outline = gang.outline(numbers[0])
        demands.append(Demand(np.column_stack([outline[:, 1], -outline[:, 0]]), len(numbers), gang.turns))
    return Task(tuple(demands), gang.area.width + gang.settings.spacing_mm) if demands else None


def _alike(gang: Gang, parts: Sequence[int]) -> list[list[int]]:
    """Parts in groups of one shape."""
    kinds: dict[tuple[int, int], list[int]] = {}
    for part in parts:
        kinds.setdefault(gang.all_parts[part].original, []).append(part)
    return list(kinds.values())


def _on_sheets(gang: Gang, parts: list[int], nester: Nester, layouts: Layouts, progress: Progress) -> list[list[Laid]]:
    """Strip after strip: of each what lies on the first length of the carrier stays, the others go on."""
    sheets: list[list[Laid]] = []
    whole = sum(gang.shape(part).area for part in parts)
    waiting = list(parts)
    while waiting:
        progress.raise_if_cancelled()
        done = 1 - sum(gang.shape(part).area for part in waiting) / max(1e-9, whole)
        seconds = gang.settings.seconds if not sheets else max(1, gang.settings.seconds // 3)
        laid, waiting = _strip(gang, waiting, seconds, nester, layouts, Stretch(progress, done, 1.0))
        board = _board(gang, laid)
        still: list[int] = []
        # What went on and is small may still lie between the others.
        for part in sorted(waiting, key=lambda part: -gang.shape(part).area):
            place = _free_place(gang, board, part) if len(still) < 3 else None
            if place is None:
                still.append(part)
            else:
                laid.append(place)
                board.put(gang.placed(place))
        waiting = [part for part in waiting if part in set(still)]
        sheets.append(laid)
    return [[other for laid in sheet for other in (laid, *_of_windows(gang, laid))] for sheet in sheets]


def _strip(
    gang: Gang, parts: list[int], seconds: int, nester: Nester, layouts: Layouts, progress: Progress
) -> tuple[list[Laid], list[int]]:
    """What lies on one sheet, and what does not."""
    spacing, area = gang.settings.spacing_mm, gang.area
    task = task_of(gang, parts)
    strip, = nested([task] if task else [], seconds, nester, layouts, progress)
    height = area.width + spacing
    own = _alike(gang, parts)
    laid, later = [], []
    free = [list(numbers) for numbers in own]
    for number, turn, u, v in sorted(strip.laid, key=lambda one: one[2]):
        part = free[number].pop(0)
        place = Laid(part, area.left - spacing / 2 - v + height, area.top - spacing / 2 + u, turn % 360.0)
        bottom = gang.placed(place).bounds[3]
        if bottom <= area.top + area.height + CLOSE_MM / 2:
            laid.append(place)
        else:
            later.append(part)
    later += [part for numbers in free for part in numbers]
    if not laid:  # a shape that fits by itself only turned another way than the strip found
        part = parts[0]
        alone = _free_place(gang, Board(area, spacing), part) or Laid(part, *_to_corner(gang, part))
        return [alone], [other for other in parts if other != part]
    return laid, later


def _to_corner(gang: Gang, part: int) -> tuple[float, float]:
    left, top, _, _ = gang.shape(part).bounds
    return gang.area.left - left, gang.area.top - top


# Free places

def _board(gang: Gang, sheet: Sequence[Laid]) -> Board:
    board = Board(gang.area, gang.settings.spacing_mm)
    for laid in sheet:
        board.put(gang.placed(laid))
    return board


def _free_place(gang: Gang, board: Board, part: int) -> Laid | None:
    """Where a part fits between what is there, turned as it may be."""
    best: tuple[float, float, Laid] | None = None
    for turn in (gang.turns or QUARTERS):
        turned = Laid(part, 0.0, 0.0, turn)
        shift = board.place_for(gang.placed(turned))
        if shift is not None:
            laid = replace(turned, x=shift[0], y=shift[1])
            _, _, right, bottom = gang.placed(laid).bounds
            if best is None or (bottom, right) < best[:2]:
                best = (bottom, right, laid)
    return best[2] if best else None


def _into_windows(gang: Gang, parts: list[int]) -> list[int]:
    """Let small parts lie in windows of large ones, the largest window first. Returns the parts that lie in none."""
    windows = []
    for part in parts:
        for polygon in shapely.get_parts(gang.shape(part)):
            windows += [(part, shapely.Polygon(ring)) for ring in getattr(polygon, "interiors", ())]
    windows.sort(key=lambda one: -one[1].area)
    free = sorted(parts, key=lambda part: -gang.shape(part).area)
    inside: set[int] = set()
    for holder, window in windows:
        if holder in inside:
            continue
        left, top, right, bottom = window.bounds
        room = min(right - left, bottom - top) - 2 * gang.settings.spacing_mm
        board: Board | None = None
        for part in free:
            small = gang.shape(part)
            if part in inside or part == holder or part in gang.held or small.area > SMALL * window.area:
                continue
            if _least_box(small)[0] > room:
                continue
            if board is None:
                edge = gang.settings.spacing_mm + 1.0  # of what is not free
                board = Board(Area(left - edge, top - edge, right - left + 2 * edge, bottom - top + 2 * edge),
                              gang.settings.spacing_mm)
                board.close_beside(window)
            place = _free_place(gang, board, part)
            if place is not None and window.buffer(-gang.settings.spacing_mm + CLOSE_MM).covers(gang.placed(place)):
                board.put(gang.placed(place))
                gang.held.setdefault(holder, []).append(place)
                inside.add(part)
    return [part for part in parts if part not in inside]


def _of_windows(gang: Gang, holder: Laid) -> list[Laid]:
    """What lies in the windows of a part, where that has come to lie."""
    found = []
    for laid in gang.held.get(holder.part, []):
        x, y = holder.matrix[:, :2] @ np.array([laid.x, laid.y]) + holder.matrix[:, 2]
        found.append(Laid(laid.part, float(x), float(y), (laid.turn + holder.turn) % 360.0))
    return found


# By hand

def _put_right(gang: Gang, sheets: list[list[Laid]], by_hand: Sequence[tuple[int, Laid]]) -> list[list[Laid]]:
    """With parts where a person put them. Whatever lies too near to these is laid elsewhere; all others stay where they were."""
    moved_parts = {laid.part for _, laid in by_hand}
    kept = [[laid for laid in sheet if laid.part not in moved_parts] for sheet in sheets]
    for number, laid in by_hand:
        while len(kept) <= number:
            kept.append([])
        kept[number].append(laid)
    loose: list[int] = []
    for number, sheet in enumerate(kept):
        off = {k for k in clashes(gang, sheet) if not sheet[k].by_hand}
        loose += [sheet[k].part for k in sorted(off)]
        kept[number] = [laid for k, laid in enumerate(sheet) if k not in off]
    boards: list[Board] = [_board(gang, sheet) for sheet in kept] if loose else []
    for part in loose:
        for number in range(len(kept) + 1):
            if number == len(kept):
                kept.append([])
                boards.append(Board(gang.area, gang.settings.spacing_mm))
            place = _free_place(gang, boards[number], part)
            if place is not None or not kept[number]:
                place = place or Laid(part, *_to_corner(gang, part))
                kept[number].append(place)
                boards[number].put(gang.placed(place))
                break
    return [sheet for sheet in kept if sheet]


def hand_places(wanted: Sequence[ByHand], parts: Sequence[Part], names: Sequence[str], width: float) -> list[tuple[int, Laid]]:
    """The sheet and place of parts that a person put somewhere. What finds nothing is left out.

    names: of the layers, as the person's places tell them; width: of the page, mm.
    """
    found: dict[int, tuple[int, Laid]] = {}
    for hand in wanted:
        own = [k for k, part in enumerate(parts) if names[part.layer] == hand.layer and part.copy == hand.copy_number]
        if not own:
            continue
        nearest = min(own, key=lambda k: _apart(parts[k], hand))
        if _apart(parts[nearest], hand) > FARTHEST:
            continue
        anchor: NDArray[np.float64] = np.array(parts[nearest].at) * width
        x, y = np.array([hand.x_mm, hand.y_mm]) - Laid(nearest, 0.0, 0.0, hand.turn_deg).matrix[:, :2] @ anchor
        found[nearest] = (hand.sheet, Laid(nearest, float(x), float(y), hand.turn_deg, True))
    return list(found.values())


def _apart(part: Part, hand: ByHand) -> float:
    """Shares of the page's width between a part's place and that which was told."""
    return float(np.hypot(part.at[0] - hand.at_x, part.at[1] - hand.at_y))
