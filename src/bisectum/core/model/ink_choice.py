"""Which inks a photograph could get: palettes to choose between, since a person's choice hangs on what matters to them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

from bisectum.core.errors import BrokenStructure

Taste = Literal["balanced", "rare", "large"]
TASTES: tuple[Taste, ...] = get_args(Taste)


@dataclass(frozen=True, slots=True)
class InkChoice:
    """taste: what counts more: small colours that stand out ("rare"), large areas, or a little of both; colours: sRGB, the
    darkest first."""

    taste: Taste
    colours: tuple[tuple[int, int, int], ...]

    def check(self) -> None:
        """Raises: BrokenStructure where there is no colour, or one twice."""
        if not self.colours or len(set(self.colours)) < len(self.colours):
            raise BrokenStructure("A choice of inks has colours that differ.")
