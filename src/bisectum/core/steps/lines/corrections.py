"""Corrections by hand: what a person moves, adds or takes out on the cut lines.

A correction names places of the picture, not results: it is made again on every new trace, on the node or line that is
then nearest. A shared line is there once, so both of its neighbours follow. One that finds nothing near, or that would
make lines cross, is left out and said so.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import LOOKS, lengths, line_segments, points_at
from bisectum.core.geom.crossings import find_crossings, pieces_of
from bisectum.core.geom.fit import fit_segment
from bisectum.core.geom.joint import SMOOTH
from bisectum.core.geom.local_fit import arc_lengths
from bisectum.core.model.placement import Placement
from bisectum.core.progress import SILENT, Progress
from bisectum.core.steps.lines.settings import Correction

NEAR = 0.012  # of the picture's longer side: how far the place of a correction may be from what it is about
CHORD = 0.02  # px, how closely crossings are looked for

Curves = NDArray[np.float64]


class _NotHereError(Exception):
    """The correction finds nothing it could be made on."""


@dataclass(slots=True)
class Lines:
    """Chains while they are corrected, pixels. curves: (S, 4, 2) of each; straight: (S,) of each; ends, junctions as in
    PlanarMap."""

    curves: list[Curves]
    straight: list[NDArray[np.bool_]]
    ends: NDArray[np.int32]
    junctions: NDArray[np.float64]

    def copy(self) -> Lines:
        return Lines(list(self.curves), list(self.straight), self.ends, self.junctions.copy())


def corrected(
    lines: Lines, corrections: tuple[Correction, ...], places: Placement, size: float, px_per_mm: float,
    progress: Progress = SILENT,
) -> tuple[Lines, list[int]]:
    """Make corrections in their order. places: where they lie on the lines; size: the picture's longer side, px.

    Returns the lines and the numbers of corrections that were left out. Raises: Cancelled.
    """
    whole, missed = _made(lines, corrections, range(len(corrections)), places, size, px_per_mm)
    if not _cross(whole):
        return whole, missed
    now, left_out = lines, []
    for number in range(len(corrections)):
        progress.raise_if_cancelled()
        then, missed = _made(now, corrections, range(number, number + 1), places, size, px_per_mm)
        if missed or _cross(then):
            left_out.append(number)
        else:
            now = then
    return now, left_out


def _made(
    lines: Lines, corrections: tuple[Correction, ...], numbers: range, places: Placement, size: float, px_per_mm: float
) -> tuple[Lines, list[int]]:
    now, missed = lines.copy(), []
    for number in numbers:
        trial = now.copy()
        try:
            _Hand(trial, corrections[number], places, NEAR * size, px_per_mm).make()
        except _NotHereError:
            missed.append(number)
            continue
        now = trial
    return now, missed


def _cross(lines: Lines) -> bool:
    pieces, segment = pieces_of(np.concatenate(lines.curves), CHORD)
    owners = np.repeat(np.arange(len(lines.curves)), [len(own) for own in lines.curves])
    return bool(find_crossings(pieces, owners[segment]))


class _Hand:
    """One correction being made on `lines`, which it changes."""

    def __init__(self, lines: Lines, correction: Correction, places: Placement, near: float, px_per_mm: float) -> None:
        self.lines, self.correction, self.near, self.px_per_mm = lines, correction, near, px_per_mm
        self.at = places.to_px(np.array([correction.x, correction.y]))[0]
        self.to = places.to_px(np.array([correction.to_x, correction.to_y], float))[0]

    def make(self) -> None:
        """Raises: _NotHereError."""
        {
            "move": self._move, "handle": self._move_handle, "add": self._add, "remove": self._remove,
            "corner": self._corner, "smooth": self._smooth, "straight": self._span, "arc": self._span, "join": self._span,
            "round": self._round,
        }[self.correction.kind]()

    # What a place means

    def _node(self, place: NDArray[np.float64]) -> tuple[int, int]:
        """The chain and number of the nearest node; the number is len(curves) at an open chain's end."""
        starts = np.concatenate([own[:, 0] for own in self.lines.curves] + [own[-1:, 3] for own in self.lines.curves])
        away = np.hypot(*(starts - place).T)
        nearest = int(away.argmin())
        if away[nearest] > self.near:
            raise _NotHereError
        counts = np.array([len(own) for own in self.lines.curves])
        if nearest >= counts.sum():
            chain = nearest - int(counts.sum())
            return chain, 0 if self.lines.ends[chain, 0] < 0 else int(counts[chain])
        chain = int(np.searchsorted(np.cumsum(counts), nearest, side="right"))
        return chain, nearest - int(counts[:chain].sum())

    def _is_end(self, chain: int, node: int) -> bool:
        return bool(self.lines.ends[chain, 0] >= 0) and node in (0, len(self.lines.curves[chain]))

    def _inner_node(self) -> tuple[int, int]:
        """The nearest node, which must not be a junction."""
        chain, node = self._node(self.at)
        if self._is_end(chain, node):
            raise _NotHereError
        return chain, node

    def _change(self, chain: int) -> tuple[Curves, NDArray[np.bool_]]:
        """A chain's own copies to write to."""
        self.lines.curves[chain], self.lines.straight[chain] = self.lines.curves[chain].copy(), self.lines.straight[chain].copy()
        return self.lines.curves[chain], self.lines.straight[chain]

    # Nodes and handles

    def _move(self) -> None:
        chain, node = self._node(self.at)
        if not self._is_end(chain, node):
            self._put(chain, node, self.to)
            return
        junction = int(self.lines.ends[chain, 0 if node == 0 else 1])
        self.lines.junctions[junction] = self.to
        for other, (first, last) in enumerate(self.lines.ends.tolist()):
            if first == junction:
                self._put(other, 0, self.to)
            if last == junction:
                self._put(other, len(self.lines.curves[other]), self.to)

    def _put(self, chain: int, node: int, to: NDArray[np.float64]) -> None:
        """Move a node; its handles go with it."""
        curves, straight = self._change(chain)
        closed = self.lines.ends[chain, 0] < 0
        before = node - 1 if node > 0 else (len(curves) - 1 if closed else None)
        if node < len(curves):
            curves[node, 1] += to - curves[node, 0]
            curves[node, 0] = to
        if before is not None:
            curves[before, 2] += to - curves[before, 3]
            curves[before, 3] = to
        for number in {node % len(curves), before}:
            if number is not None and straight[number]:
                curves[number] = line_segments(curves[number][[0, 3]])[0]

    def _move_handle(self) -> None:
        """The nearest handle moves; at a smooth node the other one turns with it."""
        chain, number, which = self._handle()
        curves, straight = self._change(chain)
        node_place = curves[number, 0 if which == 1 else 3].copy()
        other = (number - 1 if which == 1 else number + 1) % len(curves)
        linked = self.lines.ends[chain, 0] < 0 or 0 <= (number - 1 if which == 1 else number + 1) < len(curves)
        if linked and not straight[other]:
            arm, mate = curves[number, which] - node_place, curves[other, 3 - which] - node_place
            if _turn(-mate, arm) < SMOOTH:
                wanted = self.to - node_place
                size = math.hypot(*wanted)
                if size > 0:
                    curves[other, 3 - which] = node_place - wanted * (math.hypot(*mate) / size)
        curves[number, which] = self.to
        straight[number] = False

    def _handle(self) -> tuple[int, int, int]:
        best, found = self.near, None
        for chain, own in enumerate(self.lines.curves):
            away = np.hypot(*(own[:, 1:3] - self.at).transpose(2, 0, 1))
            number, which = np.unravel_index(away.argmin(), away.shape)
            if away[number, which] < best:
                best, found = float(away[number, which]), (chain, int(number), int(which) + 1)
        if found is None:
            raise _NotHereError
        return found

    def _add(self) -> None:
        chain, number, t = self._on_line()
        curves, straight = self.lines.curves[chain], self.lines.straight[chain]
        one, other = _split(curves[number], t)
        self.lines.curves[chain] = np.concatenate([curves[:number], one[None], other[None], curves[number + 1 :]])
        self.lines.straight[chain] = np.insert(straight, number, straight[number])

    def _on_line(self) -> tuple[int, int, float]:
        """The nearest place on any line: chain, segment and parameter."""
        best, found = self.near, None
        for chain, own in enumerate(self.lines.curves):
            looks = points_at(own, LOOKS)
            step, off = np.diff(looks, axis=1), self.at - looks[:, :-1]
            along = np.clip((off * step).sum(axis=2) / np.maximum((step * step).sum(axis=2), 1e-12), 0, 1)
            away = np.hypot(*(along[..., None] * step - off).transpose(2, 0, 1))  # from the chords between
            number, place = np.unravel_index(away.argmin(), away.shape)
            if away[number, place] < best:
                best = float(away[number, place])
                found = chain, int(number), float((place + along[number, place]) * LOOKS[1])
        if found is None:
            raise _NotHereError
        chain, number, middle = found
        fine = np.clip(middle + LOOKS[1] ** 2 * (2 * LOOKS - 1), 0.02, 0.98)
        away = np.hypot(*(points_at(self.lines.curves[chain][number : number + 1], fine)[0] - self.at).T)
        return chain, number, float(fine[away.argmin()])

    def _remove(self) -> None:
        chain, node = self._inner_node()
        curves, straight = self.lines.curves[chain], self.lines.straight[chain]
        if len(curves) < 3 and self.lines.ends[chain, 0] < 0:
            raise _NotHereError  # a closed line needs two nodes at least
        before = (node - 1) % len(curves)
        pair = np.stack([curves[before], curves[node]])
        line = bool(straight[before] and straight[node])
        merged = line_segments(np.stack([pair[0, 0], pair[1, 3]]))[0] if line else _merged(pair)
        self._replace(chain, before, 2, merged[None], np.array([line]))

    def _replace(self, chain: int, first: int, count: int, by: Curves, straight: NDArray[np.bool_]) -> None:
        """Put other segments in the place of `count` segments from `first` on, around the end of a closed chain."""
        curves, flat = np.roll(self.lines.curves[chain], -first, axis=0), np.roll(self.lines.straight[chain], -first)
        curves, flat = np.concatenate([by, curves[count:]]), np.concatenate([straight, flat[count:]])
        if self.lines.ends[chain, 0] >= 0:  # an open chain keeps its start
            curves, flat = np.roll(curves, first, axis=0), np.roll(flat, first)
        self.lines.curves[chain], self.lines.straight[chain] = curves, flat

    def _corner(self) -> None:
        """Both handles point to what the next ones are drawn to, so that the line breaks here."""
        chain, node = self._inner_node()
        curves, straight = self._change(chain)
        before = (node - 1) % len(curves)
        place = curves[node, 0]
        if not straight[before]:
            curves[before, 2] = place + (curves[before, 1] - place) / 3
        if not straight[node]:
            curves[node, 1] = place + (curves[node, 2] - place) / 3

    def _smooth(self) -> None:
        chain, node = self._inner_node()
        curves, straight = self._change(chain)
        before = (node - 1) % len(curves)
        place = curves[node, 0].copy()
        back, ahead = curves[before, 2] - place, curves[node, 1] - place
        sizes = max(1e-12, math.hypot(*back)), max(1e-12, math.hypot(*ahead))
        way = ahead / sizes[1] - back / sizes[0]
        if math.hypot(*way) < 1e-6:
            raise _NotHereError
        way = way / math.hypot(*way)
        curves[before, 2], curves[node, 1] = place - way * sizes[0], place + way * sizes[1]
        straight[before] = straight[node] = False

    # Spans between two nodes

    def _span(self) -> None:
        """Straighten, arc, or join smoothly what lies between two nodes of one line, the shorter way around."""
        chain, start = self._node(self.at)
        stop = self._node_of(chain, self.to)
        curves = self.lines.curves[chain]
        closed = self.lines.ends[chain, 0] < 0
        if start == stop:
            raise _NotHereError
        start, stop = min(start, stop), max(start, stop)
        count = stop - start
        if closed:
            sizes = lengths(curves)
            if sizes[start:stop].sum() > sizes.sum() / 2:
                start, count = stop, len(curves) - count
        numbers = (start + np.arange(count)) % len(curves)
        if count == len(curves):
            raise _NotHereError
        by = _new_span(self.correction.kind, curves[numbers], curves[start - 1] if closed or start else None,
                       curves[(start + count) % len(curves)] if closed or start + count < len(curves) else None)
        self._replace(chain, start, count, by, np.full(len(by), self.correction.kind == "straight"))

    def _node_of(self, chain: int, place: NDArray[np.float64]) -> int:
        own = self.lines.curves[chain]
        closed = self.lines.ends[chain, 0] < 0
        nodes = own[:, 0] if closed else np.concatenate([own[:, 0], own[-1:, 3]])
        away = np.hypot(*(nodes - place).T)
        if away.min() > self.near:
            raise _NotHereError
        return int(away.argmin())

    def _round(self) -> None:
        """An arc of the wanted radius in the place of a corner."""
        chain, node = self._inner_node()
        curves, straight = self.lines.curves[chain], self.lines.straight[chain]
        before = (node - 1) % len(curves)
        radius = float(self.correction.radius_mm or 0.0) * self.px_per_mm
        turn = _turn(_way(curves[before], 1.0), _way(curves[node], 0.0))
        reach = radius * math.tan(turn / 2)
        if turn < SMOOTH or before == node:
            raise _NotHereError
        sizes = lengths(np.stack([curves[before], curves[node]]))
        if reach >= 0.98 * sizes.min():
            raise _NotHereError  # there is no room for so large an arc
        one, _ = _split(curves[before], _at_length(curves[before], sizes[0] - reach))
        _, other = _split(curves[node], _at_length(curves[node], reach))
        first, last = _way(one, 1.0), _way(other, 0.0)
        handle = 4 / 3 * math.tan(_turn(first, last) / 4) * radius
        arc = np.stack([one[3], one[3] + handle * first, other[0] - handle * last, other[0]])
        self._replace(chain, before, 2, np.stack([one, arc, other]), np.array([straight[before], False, straight[node]]))


def _turn(one: NDArray[np.float64], other: NDArray[np.float64]) -> float:
    """The angle between two directions, radians."""
    return abs(math.atan2(one[0] * other[1] - one[1] * other[0], float(one @ other)))


def _way(curve: Curves, t: float) -> NDArray[np.float64]:
    """Unit direction at an end of a segment."""
    steps = np.diff(curve, axis=0)
    for step in steps if t == 0.0 else steps[::-1]:
        size = math.hypot(*step)
        if size > 1e-9:
            return np.asarray(step / size)
    return np.array([1.0, 0.0])


def _split(curve: Curves, t: float) -> tuple[Curves, Curves]:
    """De Casteljau's two halves of one segment : (4, 2)."""
    a, b, c, d = curve
    ab, bc, cd = a + (b - a) * t, b + (c - b) * t, c + (d - c) * t
    abc, bcd = ab + (bc - ab) * t, bc + (cd - bc) * t
    middle = abc + (bcd - abc) * t
    return np.stack([a, ab, abc, middle]), np.stack([middle, bcd, cd, d])


def _at_length(curve: Curves, wanted: float) -> float:
    """The parameter at an arc length of one segment."""
    t = np.linspace(0, 1, 200)
    along = arc_lengths(np.ascontiguousarray(points_at(curve[None], t)[0]))
    return float(np.interp(wanted, along, t))


def _merged(pair: Curves) -> Curves:
    """One segment through two that follow each other, with their outer directions."""
    points = np.ascontiguousarray(np.concatenate([points_at(pair[:1], LOOKS)[0], points_at(pair[1:], LOOKS)[0, 1:]]))
    one = np.empty((4, 2))
    fit_segment(points, arc_lengths(points), 0, len(points) - 1, _way(pair[0], 0.0), _way(pair[1], 1.0), False, 1e-6,
                np.empty(len(points)), one)
    return one


def _new_span(kind: str, old: Curves, before: Curves | None, after: Curves | None) -> Curves:
    """What takes the place of segments `old`; before, after: their neighbours, if there are any."""
    a, b = old[0, 0], old[-1, 3]
    chord = b - a
    if kind == "straight":
        return line_segments(np.stack([a, b]))
    if kind == "join":
        first = _way(before, 1.0) if before is not None else _way(old[0], 0.0)
        last = _way(after, 0.0) if after is not None else _way(old[-1], 1.0)
        third = math.hypot(*chord) / 3
        return np.stack([a, a + third * first, b - third * last, b])[None]
    sizes = np.cumsum(lengths(old))
    number = int(np.searchsorted(sizes, sizes[-1] / 2))
    place = _at_length(old[number], sizes[-1] / 2 - (sizes[number - 1] if number else 0.0))
    middle = points_at(old[number : number + 1], np.array([place]))[0, 0]
    return _arc_through(a, middle, b)


def _arc_through(a: NDArray[np.float64], middle: NDArray[np.float64], b: NDArray[np.float64]) -> Curves:
    """Cubic arcs, a quarter circle each at most, on the circle from a through `middle` to b."""
    u, v = middle - a, b - a
    cross = 2 * (u[0] * v[1] - u[1] * v[0])
    if abs(cross) < 1e-6 * float(v @ v):
        return line_segments(np.stack([a, b]))
    centre = a + np.array([v[1] * (u @ u) - u[1] * (v @ v), u[0] * (v @ v) - v[0] * (u @ u)]) / cross
    radius = math.hypot(*(a - centre))
    start = math.atan2(*(a - centre)[::-1])
    sweep = (math.atan2(*(b - centre)[::-1]) - start) % (2 * math.pi)
    if (math.atan2(*(middle - centre)[::-1]) - start) % (2 * math.pi) > sweep:
        sweep -= 2 * math.pi
    count = max(1, math.ceil(abs(sweep) / (math.pi / 2) - 1e-9))
    t = start + sweep * np.arange(count + 1) / count
    handle = 4 / 3 * math.tan(sweep / count / 4) * radius
    places = centre + radius * np.stack([np.cos(t), np.sin(t)], axis=1)
    along = handle * np.stack([-np.sin(t), np.cos(t)], axis=1)
    places[0], places[-1] = a, b
    return np.stack([places[:-1], places[:-1] + along[:-1], places[1:] - along[1:], places[1:]], axis=1)
