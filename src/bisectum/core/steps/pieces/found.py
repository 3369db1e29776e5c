"""Which face a change by hand is about: by the place it holds on to, how large the piece was, and its colour.

So it is found again after other colours, another closeness, another size or another crop; and where the piece is not there any
more the change holds on to nothing, instead of taking what happens to lie there now.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.overlay.overlay import Overlay
from bisectum.core.model.net import faces_at
from bisectum.core.model.palette import Palette
from bisectum.core.raster.colour import rgb_of
from bisectum.core.raster.difference import ciede2000, cielab
from bisectum.core.steps.pieces.faces import Faces

AS_LARGE = 2.0  # times as large, or as small, is still the same piece
SAME = 1.15  # times as large, at the very place: nothing else can be meant
ALIKE = 30.0  # CIEDE2000 that its colour may have moved by, where it lies at the very place


class Finder:
    """Finds faces of an overlay that lies as `faces` says. per_share: mm to a share of the picture's width."""

    def __init__(self, over: Overlay, faces: Faces, palette: Palette, per_share: float) -> None:
        self.over, self.faces, self.palette, self.per_share = over, faces, palette, per_share
        self._boxes: NDArray[np.float64] | None = None

    def face(self, place: NDArray[np.float64], area: float, colour: str | None) -> int | None:
        """The face that counts for a piece (or a window, where it has no colour). place : (2,), mm; area: shares squared."""
        wanted = area * self.per_share**2
        at = self.faces.root(int(faces_at(self.over, place)[0]))
        if self._fits(at, wanted, colour) and (colour is None or self._away(at, colour) <= ALIKE):
            return at
        if at and wanted and wanted / SAME <= self.faces.area[at] <= wanted * SAME:
            return at  # a piece has become a window, or has another colour altogether; it is the same shape
        near = [face for face in self._near(place, wanted) if face != at and self._fits(face, wanted, colour)]
        near = [face for face in near if colour is None or self._away(face, colour) <= ALIKE / 2]
        return min(near, key=lambda face: abs(np.log(self.faces.area[face] / max(wanted, 1e-9))), default=None)

    def label_of(self, colour: str) -> int | None:
        """The label of a colour: exactly that, or else the nearest that is near enough."""
        keys = [own.key for own in self.palette.colours]
        if colour in keys:
            return keys.index(colour) + 1
        away = [self._away_of(label, colour) for label in range(1, len(keys) + 1)]
        return int(np.argmin(away)) + 1 if away and min(away) <= ALIKE else None

    def _fits(self, face: int, wanted: float, colour: str | None) -> bool:
        if face == 0 or (self.faces.label[face] == 0) != (colour is None):
            return False
        return wanted == 0 or wanted / AS_LARGE <= self.faces.area[face] <= wanted * AS_LARGE

    def _away(self, face: int, colour: str) -> float:
        return self._away_of(self.faces.label[face], colour)

    def _away_of(self, label: int, colour: str) -> float:
        own = self.palette.colours[label - 1]
        if own.key == colour:
            return 0.0
        lab = cielab(np.array([own.rgb, rgb_of(colour[:7])], np.uint8))
        return float(ciede2000(lab[0], lab[1]))

    def _near(self, place: NDArray[np.float64], wanted: float) -> list[int]:
        """Faces whose boxes hold a place, or come near it by a part of the piece's own size."""
        if self._boxes is None:
            self._boxes = _boxes(self.over, self.faces)
        reach = 0.5 * np.sqrt(max(wanted, 1e-9))
        boxes = self._boxes
        close = (boxes[:, :2] - reach <= place).all(axis=1) & (boxes[:, 2:] + reach >= place).all(axis=1)
        return [face for face in np.flatnonzero(close).tolist() if face and self.faces.parent[face] == face]


def _boxes(over: Overlay, faces: Faces) -> NDArray[np.float64]:
    """Left, top, right, bottom of each whole, mm. (F, 4)."""
    roots = np.array([faces.root(face) for face in range(over.face_count)])
    boxes = np.tile([np.inf, np.inf, -np.inf, -np.inf], (over.face_count, 1))
    low, high = over.curves.min(axis=1), over.curves.max(axis=1)
    for side in (roots[over.left], roots[over.right]):
        np.minimum.at(boxes[:, :2], side, low)
        np.maximum.at(boxes[:, 2:], side, high)
    return boxes
