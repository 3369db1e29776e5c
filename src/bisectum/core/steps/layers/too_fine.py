"""Areas finer than the numbers in a file can hold go to a neighbour before they are cut.

A number in a file is rounded to `RESOLUTION_MM`. That moves a line by less than so much, and so takes less than the line's
length times so much from an area: one that is larger keeps some of it, one that is not may close up altogether.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bisectum.core.geom.bezier import lengths
from bisectum.core.model.picture import frozen
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.raster.forest import groups_of
from bisectum.core.units import RESOLUTION_MM


def without_too_fine(planar: PlanarMap) -> tuple[PlanarMap, int]:
    """Give every area that may close up to the neighbour of the longest shared line.

    Returns the map with new labels of its faces, and how many areas went.
    """
    count = len(planar.face_labels)
    labels = np.append(planar.face_labels, np.uint16(0))  # what lies beyond the picture counts as ground
    sides = planar.sides % (count + 1)
    owners = np.repeat(np.arange(planar.chain_count), np.diff(planar.first))
    long = np.bincount(owners, lengths(planar.segments), planar.chain_count)
    areas = np.zeros(count + 1)
    np.add.at(areas, planar.sides[:, ::-1].ravel(), planar.half_areas())
    areas[-1] = np.inf
    gone = 0
    while True:
        same = labels[sides[:, 0]] == labels[sides[:, 1]]
        group = groups_of(sides[same].astype(np.int32), count + 1)
        ends, between = group[sides[~same]], long[~same]
        area = np.bincount(group, areas, count + 1)
        around = np.bincount(ends.ravel(), np.repeat(between, 2), count + 1)
        fine = (area <= RESOLUTION_MM * around) & (around > 0)
        if not fine.any():
            return (replace(planar, face_labels=frozen(labels[:-1])) if gone else planar), gone
        both = np.concatenate([ends, ends[:, ::-1]])
        pairs, place = np.unique(both[fine[both[:, 0]]], axis=0, return_inverse=True)
        shared = np.bincount(place.ravel(), np.concatenate([between, between])[fine[both[:, 0]]])
        order = np.lexsort((shared, pairs[:, 0]))  # of each fine group the longest border comes last
        last = np.append(pairs[order][1:, 0] != pairs[order][:-1, 0], True)
        taken = {int(one): int(other) for one, other in pairs[order][last]}
        # One group of two that would swap labels stays for this round.
        for one, other in sorted(taken.items()):
            if not (fine[other] and taken.get(other) == one and other < one):
                labels[group == one] = labels[other]
                gone += 1
