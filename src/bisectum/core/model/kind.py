"""What kind of picture something is, and by what that was told."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

from bisectum.core.errors import BrokenStructure

Kind = Literal["clip-art", "photo", "line-drawing", "handwriting", "screenshot"]
Reason = Literal["by_hand", "flat", "soft", "thin_strokes", "text_lines", "ruled", "level_edges"]
"""Said by the person; areas of one colour; soft changes everywhere; ink in thin strokes on paper; so, and in lines of writing;
so, on a ruled page; most edges are level or upright, to the pixel."""


@dataclass(frozen=True, slots=True)
class Told:
    """kind: what it is; reason: by what that was told."""

    kind: Kind
    reason: Reason

    def check(self) -> None:
        """Raises: BrokenStructure where it is no kind or no reason."""
        if self.kind not in get_args(Kind) or self.reason not in get_args(Reason):
            raise BrokenStructure(f"“{self.kind}” by “{self.reason}” is no kind of picture.")


CLIP_ART = Told("clip-art", "flat")
