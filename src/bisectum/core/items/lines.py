"""Ready lines as an item: closed ones are pieces, each colour a layer, the later upon the earlier; open ones are cut open."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.geom.bezier import bounds, lengths, line_segments, points_at, signed_area
from bisectum.core.geom.overlay.network import Curves
from bisectum.core.geom.overlay.overlay import overlay
from bisectum.core.items.settings import Lines
from bisectum.core.model.offset import rings_of
from bisectum.core.model.palette import MOST_COLOURS, Colour, Palette
from bisectum.core.model.picture import frozen
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.ready_lines import ReadyLines
from bisectum.core.model.relabel import relabel, without_slivers
from bisectum.core.model.stroke import Stroke, Strokes
from bisectum.core.raster.colour import rgb_of

MEET_MM = 0.02  # ends of lines that lie so near are one
LEAST_MM2 = 1e-3  # what is filled and smaller is a line
MM_PER = {"mm": 1.0, "cm": 10.0, "in": 25.4}
MOST_INPUTS = 60  # maps that are laid over each other at once


@dataclass(slots=True)
class _Run:
    segments: NDArray[np.float64]
    straight: NDArray[np.bool_]
    colour: str
    path: int
    even_odd: bool

    @property
    def gap(self) -> float:
        return float(np.hypot(*(self.segments[-1, 3] - self.segments[0, 0])))


@dataclass(frozen=True, slots=True)
class MadeLines:
    """What an item of ready lines is: its map, its strokes in mm of the map, and how many of its lines have open ends. sized:
    whether the file says what its numbers are."""

    planar: PlanarMap
    strokes: Strokes
    open_lines: int
    sized: bool = True


def made_of_lines(ready: ReadyLines, made: Lines) -> MadeLines:
    """Raises: SettingsError where nothing is left that has an area or a length."""
    scale = (1.0 if ready.sized or made.unit is None else MM_PER[made.unit]) * made.factor
    runs = _runs(ready, scale)
    closed = [run for run in runs if run.gap <= MEET_MM]
    loose = [run for run in runs if run.gap > MEET_MM]
    if made.close_open:
        closed += [_closed(run) for run in loose if len(run.segments) > 1 or not run.straight[0]]
        loose = [run for run in loose if len(run.segments) == 1 and run.straight[0]]
    closed.sort(key=lambda run: run.path)
    names = list(dict.fromkeys(run.colour for run in (*closed, *loose)))
    if not names or not any(lengths(run.segments).sum() > 0 for run in runs):
        raise SettingsError("There are no lines of any length in this file.", code="lines_empty")
    if len(names) > MOST_COLOURS:
        raise SettingsError(f"This file has {len(names)} colours; {MOST_COLOURS} are the most.", code="lines_colours",
                            count=len(names), most=MOST_COLOURS)
    palette = Palette(tuple(Colour(rgb_of(name), 1.0 / len(names)) for name in names), "given", len(names))
    strokes = tuple(_stroke(run, names.index(run.colour) + 1) for run in loose)
    left, top, right, bottom = bounds(np.concatenate([run.segments for run in runs]))
    middle = np.array([(left + right) / 2, (top + bottom) / 2])
    planar = _map_of(closed, names, palette)
    moved = replace(planar, segments=frozen(planar.segments - middle), junctions=frozen(planar.junctions - middle),
                    width=right - left, height=bottom - top)
    at_middle = np.column_stack([np.eye(2), -middle])
    return MadeLines(moved, tuple(stroke.placed(at_middle) for stroke in strokes), len(loose), ready.sized)


def _runs(ready: ReadyLines, scale: float) -> list[_Run]:
    """All runs, those of unfilled paths joined where their ends meet."""
    filled, lines = [], []
    for number, path in enumerate(ready.paths):
        for low, high in zip(path.first[:-1], path.first[1:], strict=True):
            run = _Run(path.segments[low:high] * scale, path.straight[low:high], path.colour, number, path.even_odd)
            whole = run if run.gap <= MEET_MM else _closed(run)
            if path.filled and abs(signed_area(whole.segments)) > LEAST_MM2:
                filled.append(whole)
            elif run.gap <= MEET_MM:
                filled.append(_closed(run))
            else:
                lines.append(run)
    return filled + _joined(lines)


def _closed(run: _Run) -> _Run:
    """With a straight line back to where it began, or its ends made one."""
    segments, straight = run.segments.copy(), run.straight
    if run.gap <= MEET_MM:
        segments[-1, 3] = segments[0, 0]
    else:
        segments = np.concatenate([segments, line_segments(np.array([segments[-1, 3], segments[0, 0]]))])
        straight = np.append(straight, True)
    return replace_run(run, segments, straight)


def replace_run(run: _Run, segments: NDArray[np.float64], straight: NDArray[np.bool_]) -> _Run:
    return _Run(segments, straight, run.colour, run.path, run.even_odd)


def _joined(runs: list[_Run]) -> list[_Run]:
    """Open runs of one colour joined at ends that meet, where no third one does."""
    waiting, result = list(runs), []
    while waiting:
        now = waiting.pop(0)
        grown = True
        while grown and now.gap > MEET_MM:
            grown = False
            for k, other in enumerate(waiting):
                if other.colour != now.colour:
                    continue
                joined = _join(now, other)
                if joined is not None:
                    now = joined
                    waiting.pop(k)
                    grown = True
                    break
        result.append(_closed(now) if now.gap <= MEET_MM and len(now.segments) > 1 else now)
    return result


def _join(one: _Run, other: _Run) -> _Run | None:
    """Two runs as one, if an end of one lies at an end of the other."""
    def near(p: NDArray[np.float64], q: NDArray[np.float64]) -> bool:
        return float(np.hypot(*(p - q))) <= MEET_MM

    head, tail = one.segments[0, 0], one.segments[-1, 3]
    turned = other.segments[::-1, ::-1], other.straight[::-1]
    for segments, straight in ((other.segments, other.straight), turned):
        if near(tail, segments[0, 0]):
            return replace_run(one, _end_to_end(one.segments, segments), np.concatenate([one.straight, straight]))
        if near(head, segments[-1, 3]):
            return replace_run(one, _end_to_end(segments, one.segments), np.concatenate([straight, one.straight]))
    return None


def _end_to_end(one: NDArray[np.float64], other: NDArray[np.float64]) -> NDArray[np.float64]:
    both = np.concatenate([one, other])
    both[len(one), 0] = both[len(one) - 1, 3]
    return both


def _stroke(run: _Run, label: int) -> Stroke:
    x, y = points_at(run.segments[len(run.segments) // 2][None], np.array([0.5]))[0, 0]
    return Stroke(frozen(run.segments), frozen(run.straight), "cut", "cut", 0.1, (float(x), float(y)), label)


def _map_of(closed: list[_Run], names: list[str], palette: Palette) -> PlanarMap:
    size = {"palette": palette, "mm_per_px": 0.05, "width": 0.0, "height": 0.0, "deviation": 0.0}
    if not closed:
        return PlanarMap.empty(**size)
    inputs: list[Curves] = []
    groups: list[tuple[str, bool]] = []
    by_path: dict[int, list[_Run]] = {}
    for run in closed:
        by_path.setdefault(run.path, []).append(run)
    together: list[tuple[str, bool, list[_Run]]] = []
    for runs in by_path.values():
        last = together[-1] if together else None
        # What follows in the same colour covers the same, and may be laid down with it.
        if len(by_path) > MOST_INPUTS and last is not None and last[:2] == (runs[0].colour, False) and not runs[0].even_odd:
            last[2].extend(_facing(runs))
        else:
            together.append((runs[0].colour, runs[0].even_odd, _facing(runs)))
    for colour, even_odd, runs in together:
        segments = np.concatenate([run.segments for run in runs])
        inputs.append(rings_of(segments, np.concatenate([run.straight for run in runs])))
        groups.append((colour, even_odd))
    over = overlay(inputs)
    labels = np.zeros(len(over.labels), np.int64)
    for number, (colour, even_odd) in enumerate(groups):
        wound = over.labels[:, number]
        inside = wound % 2 != 0 if even_odd else wound != 0
        labels = np.where(inside, names.index(colour) + 1, labels)
    labels[0] = 0
    return relabel(over, without_slivers(over, labels), **size)


def _facing(runs: list[_Run]) -> list[_Run]:
    """The runs of one path, turned round together where more of them run the other way."""
    if sum(signed_area(run.segments) for run in runs) >= 0:
        return runs
    return [replace_run(run, run.segments[::-1, ::-1], run.straight[::-1]) for run in runs[::-1]]
