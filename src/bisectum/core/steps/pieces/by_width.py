"""Rules about widths: thin parts go, or are made wider; narrow gaps are closed."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import flatten, lengths
from bisectum.core.geom.overlay.overlay import Overlay
from bisectum.core.model.inside import place_inside
from bisectum.core.model.piece_map import Gone
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import faces_of
from bisectum.core.model.thin_places import Thin, thin_places
from bisectum.core.progress import SILENT, Progress
from bisectum.core.steps.pieces.changed import cut_from, laid_under
from bisectum.core.steps.pieces.middle_lines import bars_along
from bisectum.core.steps.pieces.settings import Fill

ROUNDS = 6
CHORD_MM = 0.005
ONE_LAYER = 0.9  # of a gap's edge that must be one layer's for it to be closed
Sides = dict[int, float]
"""The labels along a thin part, with mm of border each."""


@dataclass(frozen=True, slots=True)
class Widths:
    """What a rule about widths did. planar: the map after it; places : (N, 2), where; left: how many places could not be
    mended; gone: what was taken away."""

    planar: PlanarMap
    places: NDArray[np.float64]
    left: int = 0
    gone: list[Gone] = field(default_factory=list)


def without_thin(
    planar: PlanarMap, width: float, fill: Fill, spared: NDArray[np.float64], progress: Progress = SILENT,
    around: NDArray[np.float64] | None = None,
) -> Widths:
    """Without necks, hairs and scraps of pieces that are narrower than a width (mm); tips stay.

    spared : (N, 2), mm, places in thin parts that stay; around: as for thin_places. Raises: Cancelled.
    """
    gone: list[Gone] = []
    for _ in range(ROUNDS):  # what fills a place may leave another one there thin
        found = _thin(planar, planar.face_labels > 0, False, width, progress, around)
        chosen = [one for one in found if not _holds(one, spared)]
        if not chosen:
            break
        places = [place_inside(one.segments) for one in chosen]
        labels = [int(planar.face_labels[one.face]) for one in chosen]
        # What was given away and is thin there too must not come back.
        had = [{other.label for other in gone if _holds(one, np.array([other.at]))} for one in chosen]
        around = np.array([(*one.segments.min(axis=(0, 1)), *one.segments.max(axis=(0, 1))) for one in chosen])
        planar, stayed = _filled(planar, chosen, had, fill, width)
        gone += [Gone(int(label), one.area, at, one.segments, one.straight, "thin")
                 for number, (one, at, label) in enumerate(zip(chosen, places, labels, strict=True)) if number not in stayed]
    return Widths(planar, np.array([one.at for one in gone]).reshape(-1, 2), gone=gone)


def joined(planar: PlanarMap, gap: float, progress: Progress = SILENT) -> Widths:
    """With gaps of bare ground closed that are narrower than a width (mm) and lie between parts of one layer.

    What is open at one end is a notch and stays. Raises: Cancelled.
    """
    found = [one for one in _thin(planar, planar.face_labels == 0, True, gap, progress) if one.kind != "hair"]
    if not found:
        return Widths(planar, np.empty((0, 2)))
    over, values, own = _laid(planar, found)
    closed = []
    for one, sides, inside in own:
        label = max(sides, key=lambda side: sides[side], default=0)
        if label > 0 and sides[label] >= ONE_LAYER * sum(sides.values()):
            values[inside] = label
            closed.append(place_inside(one.segments))
    return Widths(cut_from(over, values, planar) if closed else planar, np.array(closed).reshape(-1, 2))


def thickened(planar: PlanarMap, width: float, progress: Progress = SILENT) -> Widths:
    """With necks, hairs and scraps of pieces made as wide as asked (mm): a bar along the middle of each melts into its piece.

    Bars that touch melt. Raises: Cancelled.
    """
    chosen = _thin(planar, planar.face_labels > 0, False, width, progress)
    if not chosen:
        return Widths(planar, np.empty((0, 2)))
    bars, left = bars_along(chosen, planar, width)
    labels = sorted(bars)
    over, values, within = laid_under(planar, [bars[label] for label in labels])
    for label, inside in zip(labels, within, strict=True):
        values[inside] = label
    places = np.array([place_inside(one.segments) for one in chosen]).reshape(-1, 2)
    return Widths(cut_from(over, values, planar), places, left)


def _thin(
    planar: PlanarMap, faces: NDArray[np.bool_], page: bool, width: float, progress: Progress,
    around: NDArray[np.float64] | None = None,
) -> list[Thin]:
    """Thin parts of faces : (F,), and of the open page if wanted, but for tips. around: as for thin_places."""
    return [one for one in thin_places(planar, np.append(faces, page), width, progress, around) if one.kind != "tip"]


def _holds(one: Thin, places: NDArray[np.float64]) -> bool:
    """Whether one of some places : (N, 2) lies within a thin part."""
    import shapely  # takes its time to load

    if not len(places):
        return False
    around = flatten(one.segments, CHORD_MM)  # of a part with windows the first outline counts
    return len(around) > 2 and bool(shapely.contains_xy(shapely.make_valid(shapely.Polygon(around)), places).any())


def _filled(
    planar: PlanarMap, chosen: list[Thin], had: list[set[int]], fill: Fill, width: float
) -> tuple[PlanarMap, set[int]]:
    """With each of some thin parts given the label with the longest border along it, of those that have not had it.

    Where all about a place have had it, two colours meet there crosswise, and one must be the wider: it is made as wide as asked.
    Returns the map, and the numbers of those.
    """
    over, values, own = _laid(planar, chosen)
    wider: dict[int, Thin] = {}
    for number, ((one, sides, inside), before) in enumerate(zip(own, had, strict=True)):
        left = {label: border for label, border in sides.items() if label not in before}
        if fill == "around" and before and not left:
            wider[number] = one
        else:
            values[inside] = 0 if fill == "open" else max(left, key=lambda label: left[label], default=0)
    labels = {number: int(planar.face_labels[one.face]) for number, one in wider.items()}
    bars = {number: bars_along([one], planar, width)[0].get(labels[number]) for number, one in wider.items()}
    planar = cut_from(over, values, planar)
    rings = [(labels[number], ring) for number, ring in bars.items() if ring is not None]
    if rings:
        over, values, within = laid_under(planar, [ring for _, ring in rings])
        for (label, _), inside in zip(rings, within, strict=True):
            values[inside] = label
        planar = cut_from(over, values, planar)
    return planar, set(wider)


def _laid(
    planar: PlanarMap, chosen: list[Thin]
) -> tuple[Overlay, NDArray[np.int64], list[tuple[Thin, Sides, NDArray[np.bool_]]]]:
    """Thin parts laid over a map: the overlay, the labels of its faces, and of each part what lies along it and its own faces.
    What the map has there beside the part's face is no part of it."""
    over, values, within = laid_under(planar, [(one.segments, one.straight) for one in chosen])
    face = faces_of(over, 0, planar)
    own = [inside & (face == one.face) for one, inside in zip(chosen, within, strict=True)]
    return over, values, [(one, _sides(over, values, face, inside), inside) for one, inside in zip(chosen, own, strict=True)]


def _sides(over: Overlay, labels: NDArray[np.int64], face: NDArray[np.int64], own: NDArray[np.bool_]) -> Sides:
    """The labels along the edge of a thin part where its face does not go on."""
    edges = np.flatnonzero(own[over.left] != own[over.right])
    inner = np.where(own[over.left[edges]], over.left[edges], over.right[edges])
    outer = np.where(own[over.left[edges]], over.right[edges], over.left[edges])
    beyond = face[outer] != face[inner]
    sides: Sides = {}
    size = lengths(over.curves[edges[beyond]])
    for label, length in zip(labels[outer[beyond]].tolist(), size.tolist(), strict=True):
        sides[label] = sides.get(label, 0.0) + length
    return sides

