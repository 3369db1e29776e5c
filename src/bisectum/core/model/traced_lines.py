"""What the Lines step makes of a picture: the map of its cut lines, and its strokes."""

from __future__ import annotations

from dataclasses import dataclass

from bisectum.core.errors import BrokenStructure
from bisectum.core.model.finding import Finding
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.stroke import Strokes


@dataclass(frozen=True, slots=True)
class TracedLines:
    """planar: the cut lines; strokes: those left out among them, mm of the map. missed: numbers of changes of a stroke's role
    that found none."""

    planar: PlanarMap
    strokes: Strokes = ()
    findings: tuple[Finding, ...] = ()
    missed: tuple[int, ...] = ()

    @property
    def used(self) -> Strokes:
        """The strokes that go into files. The map has the outlines of pieces."""
        return tuple(stroke for stroke in self.strokes if stroke.role != "leave" and not stroke.outline)

    def check(self) -> None:
        """Raises: BrokenStructure."""
        for stroke in self.strokes:
            stroke.check()
        if any(stroke.label > len(self.planar.palette.colours) for stroke in self.strokes):
            raise BrokenStructure("A stroke has a label that is no colour.")
        self.planar.check()
