"""The scale of a photograph's tones: where lightness is parted, over its histogram."""

from __future__ import annotations

from dataclasses import dataclass

from bisectum.core.errors import BrokenStructure

BINS = 64


@dataclass(frozen=True, slots=True)
class ToneScale:
    """histogram: shares of the picture in BINS equal steps of L* from 0 to 100; thresholds: L*, rising; colours: of the tones,
    darkest first, one more than thresholds; bare: whether each is left to the cloth."""

    histogram: tuple[float, ...]
    thresholds: tuple[float, ...]
    colours: tuple[tuple[int, int, int], ...]
    bare: tuple[bool, ...]

    def check(self) -> None:
        """Raises: BrokenStructure where thresholds do not rise, or tones and thresholds do not agree."""
        if any(low >= high for low, high in zip(self.thresholds, self.thresholds[1:], strict=False)):
            raise BrokenStructure("The thresholds of a scale of tones rise.")
        if not len(self.colours) == len(self.bare) == len(self.thresholds) + 1:
            raise BrokenStructure("A scale of tones has one tone more than thresholds.")
