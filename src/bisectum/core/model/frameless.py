"""A picture's planar map without the picture's frame: what lies around the artwork is the open page.

Frames of pictures that lie side by side may overlap where there is nothing but ground; the artworks do not.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bisectum.core.model.picture import frozen
from bisectum.core.model.planar_map import PlanarMap


def without_frame(planar: PlanarMap) -> PlanarMap:
    """The map without chains that have ground on one side and what lies beyond the picture on the other.

    Ground that reaches the frame is then no face any more but part of what lies beyond. Ground that is shut in stays.
    """
    count = len(planar.face_labels)
    is_ground = np.append(planar.face_labels == 0, True)
    sides = planar.sides % (count + 1)  # what lies beyond is numbered last
    dropped = is_ground[sides[:, 0]] & is_ground[sides[:, 1]]
    if not dropped.any():
        return planar
    open_faces = np.zeros(count + 1, bool)
    open_faces[sides[dropped].ravel()] = True
    open_faces[count] = True
    number = np.where(open_faces, -1, np.cumsum(~open_faces) - 1)
    chain_number = np.where(dropped, -1, np.cumsum(~dropped) - 1)
    stay = ~dropped[planar.spokes >> 1]
    spokes = 2 * chain_number[planar.spokes >> 1] + (planar.spokes & 1)
    spoke_first = np.concatenate([[0], np.cumsum(stay)])[planar.spoke_first]
    sizes = np.diff(planar.first)
    of_segments = np.repeat(~dropped, sizes)
    return replace(
        planar, segments=frozen(planar.segments[of_segments]), straight=frozen(planar.straight[of_segments]),
        first=frozen(np.concatenate([[0], np.cumsum(sizes[~dropped])]).astype(np.int64)),
        sides=frozen(number[sides[~dropped]].astype(np.int32)), ends=frozen(planar.ends[~dropped]),
        spoke_first=frozen(spoke_first), spokes=frozen(spokes[stay].astype(np.int32)),
        face_labels=frozen(planar.face_labels[~open_faces[:-1]]),
    )
