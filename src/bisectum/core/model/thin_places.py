"""Places of faces that are narrower than a width: necks, hairs, scraps; and tips, which are no fault.

What no disc of the width gets to is thin: the opening of a shape leaves it out (G. Matheron, "Random Sets and Integral
Geometry", 1975). It is found exactly, face by face, by the overlay: all that lies within half the width of a face's outline is
the band; what is left is its core; what lies farther than that from the core is thin. Each thin part is told by its *mouths*,
the stretches of its edge at which the face goes on: none makes it a scrap, two a neck, one a hair or, if it is short for its
mouth, a tip.

A look at a raster says first where anything can be thin, so that nothing is worked out elsewhere.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.geom.bezier import chords, lengths, line_segments, points_at, signed_area
from bisectum.core.geom.overlay.overlay import Overlay, overlay
from bisectum.core.geom.sweep import swept
from bisectum.core.model.net import faces_at, net_of
from bisectum.core.model.offset import outlines, rings_of
from bisectum.core.model.palette import Palette
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import relabel
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.bernstein import bernstein_of
from bisectum.core.raster.forest import groups_of

Rings = tuple[NDArray[np.float64], NDArray[np.bool_]]
Kind = Literal["neck", "hair", "scrap", "tip"]
SLACK_MM, SLACK = 0.005, 0.02  # how much more, at most, is taken for wide enough; and as a share of the width
LOOKED_AT_PX, MOST_PX = 8.0, 24_000_000  # pixels across the width in the first look, and at most in all
SHORT, LONG, NEEDLE = 0.6, 3.0, 7.0  # widths: tips shorter than the first are all; longer than the last, under 9 degrees, none
WEDGE, NEARLY, BLUNT = 0.5, 0.1, 0.68  # of mouth × depth that is full: a wedge, and a leaf's tip at most
SURELY = 0.5  # of mouth × depth in the first look: less full is no blunt end
FRACTION_BITS = 4  # of a pixel's parts in which lines are drawn
SPARE = 1.15  # times as wide is looked for at first, since pixels are coarse
REACH = 1.6  # widths about a suspect within which lines matter
BESIDE = np.array([[0, 1, 0], [1, 1, 1], [0, 1, 0]], np.uint8)  # corner to corner one gets across a line
_NO_FIELDS: dict[str, Any] = {"palette": Palette(()), "mm_per_px": 1.0, "width": 0.0, "height": 0.0, "deviation": 0.0}


@dataclass(frozen=True, slots=True)
class Thin:
    """A thin part of a face. face: -1 for the open page; area: mm²; width: about how wide it is, mm; depth: how far it reaches
    from its mouth, mm; mouths: how many. segments : (S, 4, 2), straight, mouth : (S,): its outline, along the face's own and
    straight across its mouths."""

    kind: Kind
    face: int
    area: float
    width: float
    depth: float
    mouths: int
    segments: NDArray[np.float64]
    straight: NDArray[np.bool_]
    mouth: NDArray[np.bool_]

    def check(self) -> None:
        """Raises: BrokenStructure where its outline is open, or a mouth is missing."""
        ends = np.sort(self.segments[:, [0, 3]].reshape(-1, 2), axis=0)
        if not np.allclose(ends[::2], ends[1::2], atol=1e-9):
            raise BrokenStructure("The outline of a thin part is closed.")
        if self.mouths and not self.mouth.any():
            raise BrokenStructure("A thin part of a face has a mouth where the face goes on.")


@dataclass(frozen=True, slots=True)
class Suspects:
    """Where faces may be thin. boxes : (N, 4), left, top, right, bottom, mm; faces : (N,) int64, the face that each is in, -1 for
    the open page."""

    boxes: NDArray[np.float64]
    faces: NDArray[np.int64]


def thin_places(
    planar: PlanarMap, wanted: NDArray[np.bool_], width: float, progress: Progress = SILENT,
    around: NDArray[np.float64] | None = None,
) -> list[Thin]:
    """All that is narrower than a width (mm) in some faces, tips too, most of them.

    wanted : (F + 1,) bool, the last for the open page. around : (N, 4), boxes as in Suspects, about which alone is looked.
    Raises: Cancelled.
    """
    found = suspects(planar, wanted, SPARE * width)
    if around is not None:
        close = _touching(found.boxes, around, REACH * width)
        found = Suspects(found.boxes[close], found.faces[close])
    faces = np.unique(found.faces).tolist()
    result: list[Thin] = []
    for number, face in enumerate(faces):
        progress.raise_if_cancelled()
        progress.report(number / len(faces))
        try:
            result += _thin_in_face(planar, face, found.boxes[found.faces == face], width)
        except BrokenStructure:  # its lines lie too close to be told apart: it stays as it is
            continue
    return result


# The first look


def suspects(planar: PlanarMap, wanted: NDArray[np.bool_], width: float) -> Suspects:
    """Where something may be narrower than a width (mm), most tips left out. wanted : (F + 1,) bool, the last for the open
    page."""
    beside = wanted[planar.sides].any(axis=1)
    chosen = np.repeat(beside, np.diff(planar.first))
    if not chosen.any():
        return Suspects(np.empty((0, 4)), np.empty(0, np.int64))
    points = chords(planar.segments[chosen], width / LOOKED_AT_PX / 4)[0].reshape(-1, 2, 2)
    low, high = points.min(axis=(0, 1)) - width, points.max(axis=(0, 1)) + width
    px = max(width / LOOKED_AT_PX, float(np.sqrt(np.prod(high - low) / MOST_PX)))
    if width / px < 3:  # too large a page for so small a width to be seen: all of it
        faces = np.flatnonzero(wanted)
        return Suspects(np.tile([*low, *high], (len(faces), 1)), np.where(faces == len(wanted) - 1, -1, faces))
    lines = np.ones(tuple(np.ceil((high - low) / px).astype(int)[::-1] + 1), np.uint8)
    cv2.polylines(lines, list(_fixed((points - low) / px)), False, 0, 1, cv2.LINE_8, FRACTION_BITS)
    away = cv2.distanceTransform(lines, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    core = away >= width / 2 / px
    covered = cv2.distanceTransform((~core).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE) <= width / 2 / px + 0.8
    covered &= lines > 0  # a line's own pixels belong to neither side
    count, names, stats, _ = cv2.connectedComponentsWithStats((~covered & (lines > 0)).astype(np.uint8), connectivity=4)
    boxes, places, tips = [], [], []
    for number in range(1, count):
        x, y, w, h = stats[number, :4].tolist()
        about = slice(max(0, y - 2), y + h + 2), slice(max(0, x - 2), x + w + 2)
        own = names[about] == number
        tips.append(_is_sure_tip(own, covered[about], width / px))
        row, column = np.unravel_index(int(np.where(own, away[about], 0).argmax()), own.shape)
        boxes.append((low[0] + (x - 1) * px, low[1] + (y - 1) * px, low[0] + (x + w + 1) * px, low[1] + (y + h + 1) * px))
        places.append((low[0] + (about[1].start + column) * px, low[1] + (about[0].start + row) * px))
    faces = faces_at(net_of(planar), np.array(places).reshape(-1, 2)) - 1
    stays = _not_alone(np.array(boxes).reshape(-1, 4), faces, np.array(tips, bool), SHORT * width)
    boxes, faces = [box for box, one in zip(boxes, stays, strict=True) if one], faces[stays]
    finer = _too_fine_to_see(planar, lines, low, px)
    found = np.concatenate([np.array(boxes).reshape(-1, 4), finer.boxes])
    faces = np.concatenate([faces, finer.faces])
    return Suspects(found[wanted[faces]], faces[wanted[faces]])


def _too_fine_to_see(planar: PlanarMap, lines: NDArray[np.uint8], low: NDArray[np.float64], px: float) -> Suspects:
    """Where two lines run together within a pixel or two, so that nothing is seen between them. lines : (H, W), 0 where one
    is."""
    together = cv2.morphologyEx((lines == 0).astype(np.uint8), cv2.MORPH_OPEN, np.ones((2, 2), np.uint8))
    together = np.maximum(together, cv2.dilate(_drawn_twice(planar, lines.shape, low, px), np.ones((3, 3), np.uint8)))
    count, _, stats, _ = cv2.connectedComponentsWithStats(together, connectivity=8)
    x, y, w, h = stats[1:, :4].T
    long = np.hypot(w, h) >= SHORT * LOOKED_AT_PX + 3  # shorter is where lines meet
    corner = (np.stack([x, y], axis=1)[long] - 1.5) * px + low
    boxes = np.concatenate([corner, corner + (np.stack([w, h], axis=1)[long] + 2) * px], axis=1)
    if count < 2 or not long.any():
        return Suspects(np.empty((0, 4)), np.empty(0, np.int64))
    import shapely  # takes its time to load

    tree = shapely.STRtree(shapely.box(*np.concatenate([planar.segments.min(axis=1), planar.segments.max(axis=1)], axis=1).T))
    number, segment = tree.query(shapely.box(*boxes.T))
    chain = np.searchsorted(planar.first, segment, side="right") - 1
    pairs = np.unique(np.concatenate([np.stack([number, planar.sides[chain, side]], axis=1) for side in (0, 1)]), axis=0)
    return Suspects(boxes[pairs[:, 0]], pairs[:, 1].astype(np.int64))


def _fixed(px: NDArray[np.float64]) -> NDArray[np.int32]:
    """Places as OpenCV takes them, whole numbers of the smallest part of a pixel."""
    return np.round(px * (1 << FRACTION_BITS)).astype(np.int32)


def _not_alone(
    boxes: NDArray[np.float64], faces: NDArray[np.int64], tips: NDArray[np.bool_], reach: float
) -> NDArray[np.bool_]:
    """What is no tip, and tips that point at another one of their face: between them it may go on, too narrow to be seen.
    (N,)."""
    import shapely  # takes its time to load

    stays = ~tips
    if tips.any():
        tree = shapely.STRtree(shapely.box(*(boxes + np.array([-reach, -reach, reach, reach])).T))
        one, other = tree.query(shapely.box(*boxes.T))
        pairs = (one != other) & tips[one] & tips[other] & (faces[one] == faces[other])
        stays[one[pairs]] = True
    return stays


def _drawn_twice(
    planar: PlanarMap, shape: tuple[int, ...], low: NDArray[np.float64], px: float
) -> NDArray[np.uint8]:
    """Pixels through which two segments run. (H, W) uint8."""
    counts = np.maximum(1, np.ceil(lengths(planar.segments) / px)).astype(int)
    segment = np.repeat(np.arange(len(counts)), counts)
    t = (np.arange(len(segment)) - np.repeat(np.cumsum(counts) - counts, counts) + 0.5) / counts[segment]
    at = (np.einsum("nk,nkd->nd", bernstein_of(t, axis=1), planar.segments[segment]) - low) / px
    places = (_fixed(at) + (1 << FRACTION_BITS >> 1)) >> FRACTION_BITS  # the pixels that the lines were drawn into
    inside = (places >= 0).all(axis=1) & (places < np.array(shape[::-1])).all(axis=1)
    pairs = np.unique(np.stack([places[inside, 1] * shape[1] + places[inside, 0], segment[inside]], axis=1), axis=0)
    pixels, times = np.unique(pairs[:, 0], return_counts=True)
    twice = np.zeros(shape, np.uint8)
    twice.ravel()[pixels[times > 1]] = 1
    return twice


def _is_sure_tip(own: NDArray[np.bool_], covered: NDArray[np.bool_], width_px: float) -> bool:
    """Whether a thin part, both (H, W), surely is a tip: it touches one covered area, and is short, or a triangle upon it."""
    mouth = (cv2.dilate(own.astype(np.uint8), BESIDE) > 0) & covered
    if cv2.connectedComponents(mouth.astype(np.uint8))[0] != 2:
        return False
    depth = float(cv2.distanceTransform((~mouth).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)[own].max())
    long = float(np.hypot(*np.ptp(np.argwhere(mouth), axis=0)))
    return depth < SHORT * width_px / 2 or (depth < LONG * width_px / SPARE and own.sum() < SURELY * (long + 1) * depth)


# One face


def _thin_in_face(planar: PlanarMap, face: int, boxes: NDArray[np.float64], width: float) -> list[Thin]:
    """Raises: BrokenStructure where its lines cannot be told apart."""
    inside = np.zeros(len(planar.face_labels) + 1, bool)
    inside[face] = True
    segments, straight, first = outlines(planar, inside)
    slack = min(SLACK_MM, SLACK * width)
    near = _near(segments, boxes, REACH * width)
    whole = 0 if face < 0 else 1  # how often the outline winds about what lies within the face
    over = overlay([rings_of(segments, straight), rings_of(*swept(segments, straight, first, slack - width / 2, chosen=near))])
    core = (over.labels[:, 0] == whole) & (over.labels[:, 1] == 0)
    cores = relabel(over, core != core[0], **_NO_FIELDS)
    labels = np.append((cores.face_labels > 0) != core[0], core[0])
    own, lines, starts = outlines(cores, labels)
    back = swept(own, lines, starts, width / 2 + slack, chosen=_near(own, boxes, REACH * width))
    over = overlay([rings_of(segments, straight), rings_of(own, lines), rings_of(*back)])
    is_core = over.labels[:, 1] == (0 if core[0] else 1)
    within = over.labels[:, 0] == whole
    at_suspects = np.zeros(over.face_count, bool)
    at_suspects[_faces_at(over, boxes)] = True
    thin = within & ~is_core & (over.labels[:, 2] == 0) & at_suspects
    return _parts(over, within, thin, face, width) if thin.any() else []


def _touching(boxes: NDArray[np.float64], others: NDArray[np.float64], reach: float) -> NDArray[np.bool_]:
    """Which boxes come within a reach of some of the others."""
    import shapely  # takes its time to load

    close = np.zeros(len(boxes), bool)
    tree = shapely.STRtree(shapely.box(*(others + np.array([-reach, -reach, reach, reach])).T))
    close[tree.query(shapely.box(*boxes.T))[0]] = True
    return close


def _near(segments: NDArray[np.float64], boxes: NDArray[np.float64], reach: float) -> NDArray[np.bool_]:
    """Which segments come near one of the boxes."""
    if not len(segments):
        return np.zeros(0, bool)
    return _touching(np.concatenate([segments.min(axis=1), segments.max(axis=1)], axis=1), boxes, reach)


def _faces_at(over: Overlay, boxes: NDArray[np.float64]) -> NDArray[np.int64]:
    """Faces that have an edge near one of the boxes."""
    near = _near(over.curves, boxes, 0.0)
    return np.unique(np.concatenate([over.left[near], over.right[near]])).astype(np.int64)


# What kind of place it is


def _parts(
    over: Overlay, within: NDArray[np.bool_], thin: NDArray[np.bool_], face: int, width: float
) -> list[Thin]:
    """The thin faces of an overlay in parts that hang together, and what each of them is. within: what belongs to the face."""
    group = groups_of(np.stack([over.left, over.right], axis=1)[thin[over.left] & thin[over.right]], over.face_count)
    names = np.unique(group[thin])
    part = np.where(thin, np.searchsorted(names, group), -1)
    areas = np.bincount(part[thin], weights=over.areas()[thin], minlength=len(names))
    rest = len(names) + 1  # what of the face is not thin, or else what lies beyond it: the other one is the open page
    values = np.where(thin, part + 1, np.where(within != within[0], rest, 0))
    goes_on = 0 if within[0] else rest
    drawn = relabel(over, values, **_NO_FIELDS)
    labels = np.append(drawn.face_labels.astype(np.int64), 0)
    own: dict[int, list[tuple[NDArray[np.float64], NDArray[np.bool_], bool]]] = {}
    for number, loop in drawn.loops():
        if 0 < labels[number] < rest:
            own.setdefault(int(labels[number]) - 1, []).extend(
                (*drawn.walk(half), bool(labels[drawn.right_face(half ^ 1)] == goes_on)) for half in loop)
    return [_told(own[number], face, float(areas[number]), width) for number in sorted(own)]


def is_tip(long: float, full: float) -> bool:
    """Whether a thin part with one mouth is a tip. long: its depth in widths; full: its area as a share of mouth × depth.

    A wedge is half full whatever its angle. What is short may end as it likes, unless it is blunt; what is long is a tip only
    if it is a wedge; a needle is none.
    """
    if long < LONG:
        return long < SHORT or full <= BLUNT
    return long < NEEDLE and abs(full - WEDGE) <= NEARLY


def _between(sides: list[NDArray[np.float64]], about: float) -> float:
    """The least distance between two sides of a neck, mm; `about` where it has but one."""
    looks = [points_at(curves, np.linspace(0, 1, 9)).reshape(-1, 2) for curves in sides]
    away = [float(np.sqrt(((one[:, None] - other[None]) ** 2).sum(axis=2).min()))
            for number, one in enumerate(looks) for other in looks[:number]]
    return min(away, default=about)


def _told(
    around: list[tuple[NDArray[np.float64], NDArray[np.bool_], bool]], face: int, area: float, width: float
) -> Thin:
    """One thin part. around: the lines about it, and whether the face goes on beyond each."""
    mouths = [curves for curves, _, goes_on in around if goes_on]
    sides = sum(float(lengths(curves).sum()) for curves, _, goes_on in around if not goes_on)
    parts = [(line_segments(curves[[0, -1], [0, 3]]), np.ones(1, bool), True) if goes_on and (curves[0, 0] != curves[-1, 3]).any()
             else (curves, straight, goes_on) for curves, straight, goes_on in around]
    outline = (np.concatenate([one[0] for one in parts]), np.concatenate([one[1] for one in parts]),
               np.repeat([one[2] for one in parts], [len(one[0]) for one in parts]))
    about = 2 * area / max(sides, 1e-9)
    if not mouths:
        return Thin("scrap", face, area, about, sides / 2, 0, *outline)
    segments, _, mouth = outline
    looks = np.linspace(0, 1, 9)
    middle = points_at(segments[mouth], looks).reshape(-1, 2)
    edge = points_at(segments, looks).reshape(-1, 2)
    depth = float(np.sqrt(((edge[:, None] - middle[None]) ** 2).sum(axis=2).min(axis=1).max()))
    if len(mouths) > 1:
        kind: Kind = "neck"
        about = _between([curves for curves, _, goes_on in around if not goes_on], about)
    else:
        wide = float(lengths(segments[mouth]).sum())
        kind = "tip" if is_tip(depth / width, signed_area(segments) / max(wide * depth, 1e-12)) else "hair"
    return Thin(kind, face, area, about, depth, len(mouths), *outline)
