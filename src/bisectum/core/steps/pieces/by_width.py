"""Rules about widths: thin parts go, or are made wider; narrow gaps are closed."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import lengths
from bisectum.core.geom.overlay.overlay import overlay
from bisectum.core.model.net import faces_at
from bisectum.core.model.offset import curves_of, rings_of
from bisectum.core.model.piece_map import Gone
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import faces_of, labels_from, relabel, without_slivers
from bisectum.core.model.thin_places import ThinPlaces, thin_places
from bisectum.core.progress import SILENT, Progress
from bisectum.core.steps.pieces.changed import cut_from, fields_of, laid_under
from bisectum.core.steps.pieces.inside import place_inside
from bisectum.core.steps.pieces.middle_lines import bars_along
from bisectum.core.steps.pieces.settings import Fill

ROUNDS = 6
ONE_LAYER = 0.9  # of a gap's edge that must be one layer's for it to be closed


@dataclass(frozen=True, slots=True)
class Widths:
    """What a rule about widths did. planar: the map after it; places : (N, 2), where; left: how many places could not be
    mended."""

    planar: PlanarMap
    places: NDArray[np.float64]
    left: int = 0
    gone: list[Gone] = field(default_factory=list)


def without_thin(
    planar: PlanarMap, width: float, fill: Fill, spared: NDArray[np.float64], progress: Progress = SILENT
) -> Widths:
    """Without necks, hairs and scraps of pieces that are narrower than a width (mm); tips stay.

    spared : (N, 2), mm, places in thin parts that stay. Raises: Cancelled.
    """
    gone: list[Gone] = []
    for _ in range(ROUNDS):  # what fills a place may leave another one thin
        once = _without_thin_once(planar, width, fill, spared, progress)
        planar, gone = once.planar, gone + once.gone
        if not once.gone:
            break
    return Widths(planar, np.array([one.at for one in gone]).reshape(-1, 2), gone=gone)


def _without_thin_once(
    planar: PlanarMap, width: float, fill: Fill, spared: NDArray[np.float64], progress: Progress
) -> Widths:
    found = thin_places(planar, np.append(planar.face_labels > 0, False), width, progress)
    if found is None:
        return Widths(planar, np.empty((0, 2)))
    stays = set(found.part[faces_at(found.over, spared)].tolist())
    chosen = [k for k, one in enumerate(found.parts) if one.kind != "tip" and k not in stays]
    labels = [0 if fill == "open" else _around(found, planar, part) for part in chosen]
    gone = [Gone(int(planar.face_labels[found.parts[part].face]), found.parts[part].area, place_inside(ring[0]), *ring, "thin")
            for part, ring in zip(chosen, found.rings(chosen), strict=True)]
    return replace(_filled(found, planar, chosen, labels), gone=gone)


def joined(planar: PlanarMap, gap: float, progress: Progress = SILENT) -> Widths:
    """With gaps of bare ground closed that are narrower than a width (mm) and lie between parts of one layer.

    What is open at one end is a notch and stays. Raises: Cancelled.
    """
    found = thin_places(planar, np.append(planar.face_labels == 0, True), gap, progress)
    if found is None:
        return Widths(planar, np.empty((0, 2)))
    chosen, labels = [], []
    for part, one in enumerate(found.parts):
        label, share = _main_side(found, planar, part) if one.kind in ("neck", "scrap") else (0, 0.0)
        if label > 0 and share >= ONE_LAYER:
            chosen.append(part)
            labels.append(label)
    return _filled(found, planar, chosen, labels)


def thickened(planar: PlanarMap, width: float, progress: Progress = SILENT) -> Widths:
    """With necks, hairs and scraps of pieces made as wide as asked (mm): a bar along the middle of each melts into its piece.

    Bars that touch melt. Raises: Cancelled.
    """
    found = thin_places(planar, np.append(planar.face_labels > 0, False), width, progress)
    chosen = [] if found is None else [k for k, one in enumerate(found.parts) if one.kind != "tip"]
    if found is None or not chosen:
        return Widths(planar, np.empty((0, 2)))
    bars, left = bars_along(found, planar, chosen, width)
    labels = sorted(bars)
    over = overlay([curves_of(planar), *(rings_of(*bars[label]) for label in labels)])
    values = labels_from(over, 0, planar)
    for number, label in enumerate(labels, 1):
        values[over.labels[:, number] > 0] = label
    values[0] = 0
    return Widths(relabel(over, without_slivers(over, values), **fields_of(planar)), _places(found, chosen), left)


def _labels(found: ThinPlaces, planar: PlanarMap) -> NDArray[np.int64]:
    return np.append(planar.face_labels.astype(np.int64), 0)[found.face]


def _places(found: ThinPlaces, chosen: list[int]) -> NDArray[np.float64]:
    return np.array([found.parts[part].at for part in chosen]).reshape(-1, 2)


def _sides(found: ThinPlaces, planar: PlanarMap, part: int) -> dict[int, float]:
    """The labels along a part's edge where its face does not go on, each with its length."""
    over, labels = found.over, _labels(found, planar)
    left, right = found.part[over.left] == part, found.part[over.right] == part
    edges = np.flatnonzero(left != right)
    other = np.where(left[edges], over.right[edges], over.left[edges])
    own = found.parts[part].face
    outside = found.face[other] != own
    size = lengths(over.curves[edges[outside]])
    sides: dict[int, float] = {}
    for label, length in zip(labels[other[outside]].tolist(), size.tolist(), strict=True):
        sides[label] = sides.get(label, 0.0) + length
    return sides


def _around(found: ThinPlaces, planar: PlanarMap, part: int) -> int:
    """The label with the longest border along a thin part, its own not counted."""
    sides = _sides(found, planar, part)
    return max(sides, key=lambda label: sides[label], default=0)


def _main_side(found: ThinPlaces, planar: PlanarMap, part: int) -> tuple[int, float]:
    sides = _sides(found, planar, part)
    label = max(sides, key=lambda own: sides[own], default=0)
    return label, sides.get(label, 0.0) / max(sum(sides.values()), 1e-12)


def _filled(found: ThinPlaces, planar: PlanarMap, chosen: list[int], labels: list[int]) -> Widths:
    """With each of some thin parts given a label; what the map has there beside it stays."""
    if not chosen:
        return Widths(planar, np.empty((0, 2)))
    over, values, within = laid_under(planar, found.rings(chosen))
    face = faces_of(over, 0, planar)
    for part, label, inside in zip(chosen, labels, within, strict=True):
        values[inside & (face == found.parts[part].face)] = label
    return Widths(cut_from(over, values, planar), _places(found, chosen))
