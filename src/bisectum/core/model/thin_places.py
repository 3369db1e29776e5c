"""Places of faces that are narrower than a width: necks, hairs, scraps; and tips, which are no fault.

What no disc of the width gets to is thin: the opening of a shape leaves it out (G. Matheron, "Random Sets and Integral
Geometry", 1975). It is found exactly, by the overlay: all that lies within half the width of a line is the band; what is left
of a face is its core; what lies farther than that from every core is thin. Each thin part is told by its *mouths*, the
stretches of its edge at which the face goes on: none makes it a scrap, two a neck, one a hair or, if it is short for its mouth,
a tip.

A look at a raster says first where anything can be thin, so that nothing is worked out elsewhere.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.geom.bezier import chords, flatten, lengths, line_segments, points_at
from bisectum.core.geom.hermite import directions
from bisectum.core.geom.overlay.overlay import Overlay, overlay
from bisectum.core.geom.sweep import TURN, discs, stretches
from bisectum.core.model.offset import curves_of, rings_of
from bisectum.core.model.palette import Palette
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import faces_of, labels_from, relabel
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.forest import groups_of

Rings = tuple[NDArray[np.float64], NDArray[np.bool_]]
Kind = Literal["neck", "hair", "scrap", "tip"]
SLACK_MM, SLACK = 0.005, 0.02  # how much more, at most, is taken for wide enough; and as a share of the width
LOOKED_AT_PX, MOST_PX = 8.0, 24_000_000  # pixels across the width in the first look, and at most in all
LONG, SHORT, FULL = 3.0, 0.6, 0.68  # widths; widths; part of mouth × depth: a hair is long, or not short and no triangle
BAND, CORE = 1, 2  # labels; the core of face f has CORE + f
_NO_FIELDS: dict[str, Any] = {"palette": Palette(()), "mm_per_px": 1.0, "width": 0.0, "height": 0.0, "deviation": 0.0}
REACH = 1.6  # widths about a suspect within which lines matter


@dataclass(frozen=True, slots=True)
class Thin:
    """A thin part of a face. face: -1 for the open page; at: a place in it, mm; area: mm²; width: about how wide it is, mm;
    depth: how far it reaches from its mouth, mm; mouths: how many."""

    kind: Kind
    face: int
    at: tuple[float, float]
    area: float
    width: float
    depth: float
    mouths: int


@dataclass(frozen=True, slots=True)
class ThinPlaces:
    """over: an overlay that has each thin part as faces of its own. face : (F,) int64, the face of the map that each lies in, -1
    for the open page; part : (F,) int64, the thin part it belongs to, or -1. parts: all of them, tips too."""

    over: Overlay
    face: NDArray[np.int64]
    part: NDArray[np.int64]
    parts: tuple[Thin, ...]

    def rings(self, chosen: Sequence[int]) -> list[Rings]:
        """The outline of each of some parts: along lines of the map as it is there, and straight across its mouths."""
        values = self.face + 2 + len(chosen)
        for number, part in enumerate(chosen, 1):
            values[self.part == part] = number
        values[(self.face < 0) & (values > len(chosen))] = 0
        map_ = relabel(self.over, values, **_NO_FIELDS)
        labels = np.append(map_.face_labels.astype(np.int64), 0)
        own = {number: self.parts[part].face for number, part in enumerate(chosen, 1)}
        drawn: dict[int, list[Rings]] = {number: [] for number in own}
        for face, loop in map_.loops():
            number = int(labels[face])
            if not 0 < number <= len(chosen):
                continue
            rest = 0 if own[number] < 0 else own[number] + 2 + len(chosen)  # where the face goes on
            for half in loop:
                curves, straight = map_.walk(half)
                is_mouth = labels[map_.right_face(half ^ 1)] == rest
                if is_mouth and (curves[0, 0] != curves[-1, 3]).any():
                    curves, straight = line_segments(curves[[0, -1], [0, 3]]), np.ones(1, bool)
                drawn[number].append((curves, straight))
        return [_joined_rings(parts) for parts in drawn.values()]

    def check(self) -> None:
        """Raises: BrokenStructure where a part has no face, or one that is not the one it is said to lie in."""
        if sorted(set(self.part[self.part >= 0].tolist())) != list(range(len(self.parts))):
            raise BrokenStructure("Every thin part is made of faces.")
        for number, thin in enumerate(self.parts):
            if (self.face[self.part == number] != thin.face).any():
                raise BrokenStructure("A thin part lies in one face.", x=thin.at[0], y=thin.at[1])


def thin_places(
    planar: PlanarMap, wanted: NDArray[np.bool_], width: float, progress: Progress = SILENT
) -> ThinPlaces | None:
    """All that is narrower than a width (mm) in some faces; None where nothing is.

    wanted : (F + 1,) bool, the last for the open page. Raises: Cancelled.
    """
    boxes = suspects(planar, wanted, width)
    if not len(boxes):
        return None
    progress.raise_if_cancelled()
    slack = min(SLACK_MM, SLACK * width)
    cores = _cores(planar, wanted, boxes, width / 2 - slack, width)
    progress.raise_if_cancelled()
    colour = _told_apart(planar, wanted)
    back = [rings_of(*_back(cores, colour == own, boxes, width / 2 + slack, width))
            for own in range(int(colour.max()) + 1)]
    over = overlay([curves_of(planar), curves_of(cores), *back])
    face = faces_of(over, 0, planar)
    near = np.zeros(over.face_count, bool)
    near[_faces_at(over, boxes)] = True
    covered = over.labels[np.arange(len(face)), 2 + colour[face]] != 0
    thin = wanted[face] & (labels_from(over, 1, cores) == BAND) & ~covered & near
    if not thin.any():
        return None
    part, parts = _parts(over, face, thin, width)
    return ThinPlaces(over, face, part, parts) if parts else None


# The first look


def suspects(planar: PlanarMap, wanted: NDArray[np.bool_], width: float) -> NDArray[np.float64]:
    """Boxes : (N, 4), left, top, right, bottom, mm, about all that may be narrower than a width, tips left out."""
    beside = wanted[planar.sides].any(axis=1)
    chosen = np.repeat(beside, np.diff(planar.first))
    if not chosen.any():
        return np.empty((0, 4))
    points = chords(planar.segments[chosen], width / LOOKED_AT_PX / 4)[0].reshape(-1, 2, 2)
    low, high = points.min(axis=(0, 1)) - width, points.max(axis=(0, 1)) + width
    px = max(width / LOOKED_AT_PX, float(np.sqrt(np.prod(high - low) / MOST_PX)))
    if width / px < 3:  # too large a page for so small a width to be seen: all of it
        return np.array([[*low, *high]])
    lines = np.ones(tuple(np.ceil((high - low) / px).astype(int)[::-1] + 1), np.uint8)
    cv2.polylines(lines, list(np.round((points - low) / px * 16).astype(np.int32)), False, 0, 1, cv2.LINE_8, 4)
    away = cv2.distanceTransform(lines, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    core = away >= width / 2 / px
    covered = cv2.distanceTransform((~core).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE) <= width / 2 / px + 0.8
    left = ((lines > 0) & ~covered & _of_wanted(planar, wanted, low, px, lines.shape)).astype(np.uint8)
    count, names, stats, _ = cv2.connectedComponentsWithStats(left, connectivity=4)
    found = []
    for number in range(1, count):
        x, y, w, h = stats[number, :4].tolist()
        about = slice(max(0, y - 2), y + h + 2), slice(max(0, x - 2), x + w + 2)
        if np.hypot(w, h) * px < SHORT * width / 2 and not _is_neck(names[about], covered[about], number):
            continue
        found.append((low[0] + (x - 1) * px, low[1] + (y - 1) * px, low[0] + (x + w + 1) * px, low[1] + (y + h + 1) * px))
    return np.array(found).reshape(-1, 4)


def _is_neck(names: NDArray[Any], covered: NDArray[np.bool_], number: int) -> bool:
    """Whether a thin part, one pixel of line apart or none, touches other than one covered area."""
    about = cv2.dilate((names == number).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    return bool(cv2.connectedComponents((about & covered).astype(np.uint8))[0] != 2)


def _of_wanted(
    planar: PlanarMap, wanted: NDArray[np.bool_], low: NDArray[np.float64], px: float, shape: tuple[int, ...]
) -> NDArray[np.bool_]:
    """The pixels of wanted faces : (H, W)."""
    if wanted.all():
        return np.ones(shape, bool)
    mask = np.zeros(shape, np.uint8)
    rings = []
    for _, loop in planar.loops(wanted):
        walk = np.concatenate([planar.walk(half)[0] for half in loop])
        rings.append(np.round((flatten(walk, px / 4) - low) / px * 16).astype(np.int32))
    if wanted[-1]:
        height, width = shape
        rings.append(np.array([(0, 0), (width, 0), (width, height), (0, height)], np.int32) * 16)
    cv2.fillPoly(mask, rings, 1, cv2.LINE_8, 4)
    return mask > 0


# Cores, and how far they reach


def _cores(
    planar: PlanarMap, wanted: NDArray[np.bool_], boxes: NDArray[np.float64], distance: float, width: float
) -> PlanarMap:
    """What is left of wanted faces when all within a distance of a line is taken away, near the boxes."""
    near = _near(planar.segments, boxes, REACH * width)
    beside = np.repeat(wanted[planar.sides], np.diff(planar.first), axis=0) & near[:, None]
    corners = _corner_nodes(planar, np.asarray(beside.any(axis=1)))
    band = _joined_rings([*stretches(planar.segments[beside[:, 0]], planar.straight[beside[:, 0]], distance),
                          *stretches(planar.segments[beside[:, 1]], planar.straight[beside[:, 1]], -distance),
                          discs(corners, distance)])
    over = overlay([curves_of(planar), rings_of(*band)])
    face = faces_of(over, 0, planar)
    values = np.where(wanted[face] & (over.labels[:, 1] == 0), face + CORE, BAND)
    values[0] = 0
    return relabel(over, values, **_NO_FIELDS)


def _told_apart(planar: PlanarMap, wanted: NDArray[np.bool_]) -> NDArray[np.int64]:
    """A small number for each face so that no two wanted neighbours have the same; -1 for others. (F + 1,).

    What is covered from a core reaches a hair beyond the line of its face, and must not count there.
    """
    sides = planar.sides % len(wanted)
    pairs = np.unique(np.sort(sides[wanted[sides].all(axis=1) & (sides[:, 0] != sides[:, 1])], axis=1), axis=0)
    beside: list[list[int]] = [[] for _ in wanted]
    for one, other in pairs.tolist():
        beside[other].append(one)
    colour = np.full(len(wanted), -1, np.int64)
    for face in np.flatnonzero(wanted).tolist():
        taken = {int(colour[other]) for other in beside[face]}
        colour[face] = next(number for number in range(len(taken) + 1) if number not in taken)
    return colour


def _back(
    cores: PlanarMap, own: NDArray[np.bool_], boxes: NDArray[np.float64], distance: float, width: float
) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    """What lies within a distance of the cores of some faces, on the side of the band, as rings. own : (F + 1,) bool."""
    label = np.append(cores.face_labels.astype(np.int64), 0)[cores.sides]
    is_core = np.where(label == 0, own[-1], own[np.maximum(0, label - CORE)] & (label >= CORE))
    sides = (label == BAND) & is_core[:, ::-1]  # the sides to which a core reaches
    near = _near(cores.segments, boxes, REACH * width)
    to = np.repeat(sides, np.diff(cores.first), axis=0) & near[:, None]
    return _joined_rings([*stretches(cores.segments[to[:, 0]], cores.straight[to[:, 0]], distance),
                          *stretches(cores.segments[to[:, 1]], cores.straight[to[:, 1]], -distance),
                          discs(_corner_nodes(cores, np.asarray(to.any(axis=1))), distance)])


def _joined_rings(rings: list[tuple[NDArray[np.float64], NDArray[np.bool_]]]) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    return np.concatenate([one[0] for one in rings]), np.concatenate([one[1] for one in rings])


def _near(segments: NDArray[np.float64], boxes: NDArray[np.float64], reach: float) -> NDArray[np.bool_]:
    """Which segments come near one of the boxes."""
    import shapely  # takes its time to load

    low, high = segments.min(axis=1), segments.max(axis=1)
    tree = shapely.STRtree(shapely.box(boxes[:, 0] - reach, boxes[:, 1] - reach, boxes[:, 2] + reach, boxes[:, 3] + reach))
    near = np.zeros(len(segments), bool)
    near[tree.query(shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1]))[0]] = True
    return near


def _corner_nodes(planar: PlanarMap, of_segments: NDArray[np.bool_]) -> NDArray[np.float64]:
    """Nodes of some segments at which lines turn, or more than two meet. (N, 2)."""
    start, end = directions(planar.segments)
    following = np.arange(1, len(planar.segments) + 1)
    following[planar.first[1:] - 1] = planar.first[:-1]
    turn = np.abs(np.arctan2(end[:, 0] * start[following, 1] - end[:, 1] * start[following, 0],
                             (end * start[following]).sum(axis=1)))
    is_last = np.zeros(len(turn), bool)
    is_last[planar.first[1:] - 1] = planar.ends[:, 0] >= 0
    corners = planar.segments[of_segments & ~is_last & (turn > TURN), 3]
    chains = np.repeat(np.arange(planar.chain_count), np.diff(planar.first))[of_segments]
    used = np.unique(planar.ends[chains])
    return np.concatenate([corners, planar.junctions[used[used >= 0]].reshape(-1, 2)])


# What kind of place it is


def _faces_at(over: Overlay, boxes: NDArray[np.float64]) -> NDArray[np.int64]:
    """Faces that have an edge near one of the boxes."""
    near = _near(over.curves, boxes, 0.0)
    return np.unique(np.concatenate([over.left[near], over.right[near]])).astype(np.int64)


def _parts(
    over: Overlay, face: NDArray[np.int64], thin: NDArray[np.bool_], width: float
) -> tuple[NDArray[np.int64], tuple[Thin, ...]]:
    """The thin faces in parts that hang together, and what each of them is."""
    left, right = over.left, over.right
    within = thin[left] & thin[right] & (face[left] == face[right])
    group = groups_of(np.stack([left, right], axis=1)[within], over.face_count)
    names = np.unique(group[thin])
    part = np.where(thin, np.searchsorted(names, group), -1)
    areas = np.bincount(part[thin], weights=over.areas()[thin], minlength=len(names))
    of_face = np.zeros(len(names), np.int64)
    of_face[part[thin]] = face[thin]
    edges: list[list[int]] = [[] for _ in names]
    for edge in np.flatnonzero((thin[left] | thin[right]) & ~within).tolist():
        for side in {int(part[left[edge]]), int(part[right[edge]])} - {-1}:
            edges[side].append(edge)
    parts = [_told(over, face, thin, number, np.array(edges[number]), int(of_face[number]), float(areas[number]), width)
             for number in range(len(names))]
    return part, tuple(parts)


def _told(
    over: Overlay, face: NDArray[np.int64], thin: NDArray[np.bool_], number: int, edges: NDArray[np.int64], own: int, area: float,
    width: float,
) -> Thin:
    """One thin part. edges: those around it."""
    goes_on = (face[over.left[edges]] == own) & (face[over.right[edges]] == own)  # there the face goes on, wide enough
    points = points_at(over.curves[edges], np.linspace(0, 1, 5)).reshape(-1, 2)
    at = points.mean(axis=0)
    size = lengths(over.curves[edges])
    mouth = edges[goes_on]
    if not len(mouth):
        around = float(size.sum())
        return Thin("scrap", own, (float(at[0]), float(at[1])), area, 2 * area / max(around, 1e-9), around / 2, 0)
    names = np.unique(over.ends[mouth])
    groups = groups_of(np.searchsorted(names, over.ends[mouth]).astype(np.int32), len(names))
    mouths = len(np.unique(groups))
    middle = points_at(over.curves[mouth], np.linspace(0, 1, 5)).reshape(-1, 2)
    depth = float(np.sqrt(((points[:, None] - middle[None]) ** 2).sum(axis=2).min(axis=1).max()))
    wide = float(lengths(over.curves[mouth]).sum())
    sides = float(size[~goes_on].sum())
    about = 2 * area / max(sides, 1e-9)
    if mouths > 1:
        kind: Kind = "neck"
    elif depth >= LONG * width or (depth >= SHORT * width and area > FULL * wide * depth):
        kind = "hair"
    else:
        kind = "tip"
    return Thin(kind, own, (float(at[0]), float(at[1])), area, about, depth, mouths)
