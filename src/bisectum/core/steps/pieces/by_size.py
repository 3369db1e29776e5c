"""The rule of the smallest piece and the smallest window: what is smaller goes, the smallest first."""

from __future__ import annotations

import heapq
from collections.abc import Collection

import numpy as np

from bisectum.core.model.palette import Palette
from bisectum.core.raster.difference import ciede2000, cielab
from bisectum.core.steps.pieces.faces import Faces
from bisectum.core.steps.pieces.settings import Fill

STANDS_OUT = 25.0  # CIEDE2000 against what lies around: another colour to everybody (common practice, no source)
MOST_TELLING = 12  # pieces of one colour: more than that are specks


def without_small(
    faces: Faces, piece_mm2: float, window_mm2: float, fill: Fill, spared: Collection[int], forced: Collection[int] = (),
) -> bool:
    """Give away pieces and windows that are smaller, by areas of the map. spared: faces that stay; forced: that go anyway.

    What falls open and would be too small a window is filled after all. The largest piece stays; returns whether it had to.
    """
    safe = {faces.root(face) for face in spared}
    cut = [face for face in faces.roots() if faces.label[face] > 0]
    last = max(cut, key=lambda face: faces.area[face], default=0)
    would_go = bool(cut) and faces.area[last] < piece_mm2 and not safe
    safe.add(last)
    queue = [(faces.area[face], face) for face in faces.roots()]
    heapq.heapify(queue)
    opened: set[int] = set()
    while queue:
        area, face = heapq.heappop(queue)
        if faces.parent[face] != face or area != faces.area[face] or face in safe or face == 0:
            continue
        if area >= (window_mm2 if faces.label[face] == 0 else piece_mm2) and face not in forced:
            continue
        opens = fill == "open" and faces.label[face] > 0 and face not in opened
        label = 0 if opens else faces.around(face)
        if label == faces.label[face]:
            continue
        melts = safe.intersection(other for other in faces.beside[face] if faces.label[other] == label)
        chief = faces.give(face, label)
        if melts:
            safe.add(chief)
        if opens:
            opened.add(chief)
        heapq.heappush(queue, (faces.area[chief], chief))
    return would_go


def standing_out(faces: Faces, palette: Palette) -> list[int]:
    """Faces that stand out from what lies around them, of colours with few pieces. Eyes, lit panes."""
    lab = cielab(np.array([(255, 255, 255), *(colour.rgb for colour in palette.colours)], np.uint8))
    of_label: dict[int, list[int]] = {}
    for face in faces.roots():
        label = faces.label[face]
        if label > 0 and not palette.colours[label - 1].tonal:
            of_label.setdefault(label, []).append(face)
    few = [face for own in of_label.values() if len(own) <= MOST_TELLING for face in own]
    around = [faces.around(face) for face in few]
    # The cloth may have any colour: what lies in open ground does not stand out from anything.
    return [face for face, other in zip(few, around, strict=True)
            if other > 0 and float(ciede2000(lab[faces.label[face]], lab[other])) >= STANDS_OUT]


def telling(faces: Faces, palette: Palette, piece_mm2: float) -> list[int]:
    """Faces that are smaller than a piece may be and yet stay: they stand out, and their colour has no larger piece."""
    largest: dict[int, float] = {}
    for face in faces.roots():
        largest[faces.label[face]] = max(largest.get(faces.label[face], 0.0), faces.area[face])
    return [face for face in standing_out(faces, palette) if largest[faces.label[face]] < piece_mm2]
