"""Planar maps whose lines cross nowhere: where two do, near a sharp corner say, they are cut and told apart anew."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bisectum.core.errors import BrokenStructure
from bisectum.core.geom.overlay.network import EPS_MM, Network
from bisectum.core.geom.overlay.overlay import overlay
from bisectum.core.model.offset import curves_of
from bisectum.core.model.picture import frozen
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import faces_of, given_away, relabel

STRAY_PX2 = 4.0  # what lies between two lines that cross by mistake is smaller: they lie within a pixel of their edges


@dataclass(frozen=True, slots=True)
class Mended:
    """A map whose lines cross nowhere, and the faces that had no place left once they were cut: numbers of the map's before."""

    planar: PlanarMap
    lost: tuple[int, ...] = ()


def without_crossings(planar: PlanarMap) -> PlanarMap:
    """The same map, its own arrays where nothing crosses."""
    return cut_where_crossed(planar).planar


def cut_where_crossed(planar: PlanarMap) -> Mended:
    """The map with its lines cut where they cross, and what lies between them there given to a neighbour."""
    own = curves_of(planar, sound=False)
    network = Network([own], EPS_MM)
    if network.settled and not network.met:
        return Mended(planar)
    try:
        over = overlay([own])
    except BrokenStructure:  # it is what it was, and is told as broken where it matters
        return Mended(planar)
    face = faces_of(over, 0, planar)
    # Between lines that crossed lies no face of the map, or one by chance only: small, and not the face's own place.
    areas = over.areas()
    largest = np.zeros(len(planar.face_labels) + 1)
    np.maximum.at(largest, face, areas)
    stray = (face < 0) | ((areas < largest[face]) & (areas < STRAY_PX2 * planar.mm_per_px**2))
    stray[0] = False
    # Ground is told from what lies beyond the picture here: its frame stays.
    labels = np.append(planar.face_labels.astype(np.int64) + 1, 0)[face]
    mended = relabel(
        over, given_away(over, labels, stray), palette=planar.palette, mm_per_px=planar.mm_per_px, width=planar.width,
        height=planar.height, deviation=planar.deviation, repaired=planar.repaired, left_out=planar.left_out)
    lost = np.setdiff1d(np.arange(len(planar.face_labels)), face[~stray])
    return Mended(replace(mended, face_labels=frozen(mended.face_labels - np.uint16(1))), tuple(lost.tolist()))
