"""HPGL: what a plotter or cutter is told, as text.

Only IN, SP, PU and PD with absolute coordinates, 1016 units to an inch, y up from the lower left corner of the page
(Hewlett-Packard, HP-GL/2 and HP RTL Reference Guide, 1996: a plotter unit is 0.025 mm). Each layer has three pens: one for
what is cut, one for what is folded, one for what is drawn. So in the file of a single layer, pen 1 cuts and pen 2 folds.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.formats.lines import CHORD_MM, Line, lines_of
from bisectum.core.formats.uses import pen_of
from bisectum.core.model.artwork import Artwork

UNITS_PER_MM = 1016 / 25.4
BOUND_MM = CHORD_MM + 0.5**0.5 / UNITS_PER_MM  # chords, and rounding to whole units


def write_hpgl(artwork: Artwork) -> str:
    """The artwork as HPGL text."""
    pen = 0
    parts = ["IN;"]
    for line in lines_of(artwork):
        if pen_of(line.layer, line.use) != pen:
            pen = pen_of(line.layer, line.use)
            parts.append(f"SP{pen};")
        first, *rest = _units(line, artwork.height).tolist()
        parts.append(f"PU{first[0]},{first[1]};PD{','.join(f'{x},{y}' for x, y in rest)};")
    return "\n".join([*parts, "PU;SP0;"]) + "\n"


def _units(line: Line, height: float) -> NDArray[np.int64]:
    """Places in whole units, none twice in a row, two at least."""
    points = np.rint((line.points() * [1, -1] + [0, height]) * UNITS_PER_MM).astype(np.int64)
    keep = np.append(True, (np.diff(points, axis=0) != 0).any(axis=1))
    return points[keep] if keep.sum() > 1 else points[:2]
