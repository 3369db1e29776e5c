"""What a person does with the palette: merging, leaving out, splitting colours, and giving areas to other layers."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.placement import Placement
from bisectum.core.raster.colour import coded_of_oklab, hex_of, oklab
from bisectum.core.raster.regions import regions_of
from bisectum.core.steps.colours.clusters import cluster
from bisectum.core.steps.colours.settings import PaletteChange

MOST_ROLES = 9
RINGED = 0.9  # part of an area that lies within a ring that takes it


@dataclass(frozen=True, slots=True)
class Entry:
    """A colour of the palette while it is being made. role: 1, or higher for a second layer of the same colour; tonal: as in
    Colour."""

    rgb: tuple[int, int, int]
    role: int = 1
    name: str = ""
    tonal: bool = False

    @property
    def key(self) -> str:
        return hex_of(self.rgb) if self.role == 1 else f"{hex_of(self.rgb)}-{self.role}"


class _NotHereError(Exception):
    """The change finds no such colour, or nothing of it there."""


def changed_by_hand(
    labels: NDArray[np.uint8], entries: list[Entry], changes: tuple[PaletteChange, ...], rgb: NDArray[np.uint8],
    places: Placement,
) -> tuple[NDArray[np.uint8], list[Entry], list[int]]:
    """Make changes in their order. labels : (H, W), entry i is label i + 1; rgb : (H, W, 3 or 4) uint8; places: of the labels.

    Returns labels, entries, and the numbers of changes that found nothing. An entry may be left without pixels.
    """
    hand = _Hand(labels, list(entries), rgb, places)
    missed = []
    for number, change in enumerate(changes):
        try:
            hand.make(change)
        except _NotHereError:
            missed.append(number)
    return hand.labels, hand.entries, missed


class _Hand:
    def __init__(self, labels: NDArray[np.uint8], entries: list[Entry], rgb: NDArray[np.uint8], places: Placement) -> None:
        self.labels, self.entries, self.rgb, self.places = labels, entries, rgb, places

    def make(self, change: PaletteChange) -> None:
        """Raises: _NotHereError."""
        if change.kind == "give":
            self._give(change)
            return
        label = self._label(change.colour)
        if change.kind == "merge":
            self._put(self.labels == label, self._label(change.into))
        elif change.kind == "clear":
            self._put(self.labels == label, 0)
        elif change.kind == "fill":
            self._fill(label)
        else:
            self._split(label)

    def _label(self, key: str | None) -> int:
        for number, entry in enumerate(self.entries, 1):
            if entry.key == key:
                return number
        raise _NotHereError

    def _put(self, mask: NDArray[np.bool_], label: int) -> None:
        if not mask.any():
            raise _NotHereError
        self.labels = np.where(mask, np.uint8(label), self.labels)

    def _another(self, label: int) -> int:
        """A new entry of the same colour."""
        entry = self.entries[label - 1]
        taken = {other.role for other in self.entries if other.rgb == entry.rgb}
        role = next((number for number in range(2, MOST_ROLES + 1) if number not in taken), None)
        if role is None or len(self.entries) >= 250:
            raise _NotHereError
        self.entries.append(replace(entry, role=role))
        return len(self.entries)

    def _fill(self, label: int) -> None:
        """Each pixel goes to the nearest other colour; the background fills in as well."""
        import cv2

        mask = self.labels == label
        if not mask.any() or mask.all():
            raise _NotHereError
        _, nearest = cv2.distanceTransformWithLabels(mask.astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
        values = np.zeros(int(nearest.max()) + 1, np.uint8)
        values[nearest[~mask]] = self.labels[~mask]
        self.labels = np.where(mask, values[nearest], self.labels)

    def _give(self, change: PaletteChange) -> None:
        """The connected area at a place, or all those within a ring, go to another label."""
        if change.ring:
            self._give_ringed(self.places.to_px(np.array(change.ring, float)), change.into)
            return
        x, y = self.places.to_px(np.array([change.x, change.y], float))[0]
        row, column = math.floor(y), math.floor(x)
        height, width = self.labels.shape
        if not (0 <= row < height and 0 <= column < width) or self.labels[row, column] == 0:
            raise _NotHereError
        label = int(self.labels[row, column])
        into = self._label(change.into) if change.into is not None else self._another(label)
        if into == label:
            raise _NotHereError
        regions = regions_of(self.labels).numbers
        self._put(regions == regions[row, column], into)

    def _give_ringed(self, ring: NDArray[np.float64], into: str | None) -> None:
        """ring : (N, 2) px. To layers of their own goes each colour by itself."""
        import cv2

        inside = np.zeros(self.labels.shape, np.uint8)
        reach = 4.0 * max(inside.shape)
        cv2.fillPoly(inside, [np.rint(np.clip(ring, -reach, reach)).astype(np.int32)], 1)
        regions = regions_of(self.labels)
        sizes, label_of = regions.sizes, regions.labels
        within = np.bincount(regions.numbers[inside > 0], minlength=len(sizes))
        wanted = self._label(into) if into is not None else 0
        ringed = (within >= RINGED * sizes) & (label_of > 0) & (label_of != wanted)
        if not ringed.any():
            raise _NotHereError
        for label in [0] if into is not None else np.unique(label_of[ringed]).tolist():
            chosen = ringed if into is not None else ringed & (label_of == label)
            self._put(chosen[regions.numbers], wanted or self._another(label))

    def _split(self, label: int) -> None:
        mask = self.labels == label
        own = self.rgb[mask][:, :3]
        if len(own) < 20:
            raise _NotHereError
        lab = oklab(own)
        centres = cluster(lab, 2)
        colours = coded_of_oklab(centres)
        if len(colours) < 2 or (colours[0] == colours[1]).all():
            raise _NotHereError
        second = ((lab - centres[1]) ** 2).sum(axis=1) < ((lab - centres[0]) ** 2).sum(axis=1)
        first, other = ((int(red), int(green), int(blue)) for red, green, blue in colours[:2])
        known = {entry.key for number, entry in enumerate(self.entries, 1) if number != label}
        if hex_of(first) in known or hex_of(other) in known or not 0 < second.sum() < len(second):
            raise _NotHereError
        parted = mask.copy()
        parted[mask] = second
        tonal = self.entries[label - 1].tonal
        self.entries[label - 1] = Entry(first, tonal=tonal)
        self.entries.append(Entry(other, tonal=tonal))
        self._put(parted, len(self.entries))
