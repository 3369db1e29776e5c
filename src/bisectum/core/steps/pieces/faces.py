"""The faces of a map as a graph in which they are given to neighbours."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import lengths
from bisectum.core.geom.overlay.overlay import Overlay


class Faces:
    """Faces of an overlay, or of the net of a map. label, area (mm²): of each face, or of the whole it is now part of.

    Face 0 is the open page, and as large as nothing else. Ground that is not shut in is one with it.
    """

    def __init__(self, over: Overlay, labels: NDArray[np.int64]) -> None:
        """labels : (F,), 0 for ground."""
        self.label: list[int] = labels.tolist()
        self.area: list[float] = over.areas().tolist()
        self.area[0] = float("inf")
        self.parent = list(range(len(self.label)))
        self.beside: list[dict[int, float]] = [{} for _ in self.label]
        pairs = np.sort(np.stack([over.left, over.right], axis=1), axis=1).astype(np.int64)
        coded, which = np.unique(pairs[:, 0] * over.face_count + pairs[:, 1], return_inverse=True)
        borders = np.bincount(which.reshape(-1), weights=lengths(over.curves), minlength=len(coded))
        for code, border in zip(coded.tolist(), borders.tolist(), strict=True):
            one, other = divmod(code, over.face_count)
            if one != other:
                self.beside[one][other] = self.beside[other][one] = border
        self.has_melted = False
        for face in range(len(self.label)):
            if self.parent[face] == face:
                self._melt(face)

    def around(self, face: int) -> int:
        """The label with the longest border along a face; its own where there is none."""
        borders: dict[int, float] = {}
        for other, border in self.beside[face].items():
            borders[self.label[other]] = borders.get(self.label[other], 0.0) + border
        borders.pop(self.label[face], None)
        return max(borders, key=lambda label: borders[label], default=self.label[face])

    def give(self, face: int, label: int) -> int:
        """Give a face another label. Returns the face that the whole is now counted as."""
        self.label[face] = label
        return self._melt(face)

    def _melt(self, face: int) -> int:
        """Make a face one with all neighbours of its label."""
        same = [other for other in self.beside[face] if self.label[other] == self.label[face]]
        chief = max([face, *same], key=lambda own: self.area[own])
        for one in (face, *same):
            if one == chief:
                continue
            self.parent[one] = chief
            self.has_melted = True
            self.area[chief] += self.area[one]
            for other, border in self.beside[one].items():
                del self.beside[other][one]
                if other != chief:
                    self.beside[chief][other] = self.beside[chief].get(other, 0.0) + border
                    self.beside[other][chief] = self.beside[chief][other]
            self.beside[one] = {}
        return chief

    def root(self, face: int) -> int:
        """The face that counts for the whole this one is part of."""
        while self.parent[face] != face:
            face = self.parent[face]
        return face

    def roots(self) -> list[int]:
        """All wholes but the open page."""
        return [face for face, parent in enumerate(self.parent) if parent == face and face != 0]

    def labels(self) -> NDArray[np.int64]:
        """Of all faces as they are now. (F,)."""
        return np.array([self.label[self.root(face)] for face in range(len(self.label))], np.int64)
