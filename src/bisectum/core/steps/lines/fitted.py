"""Lines as they were fitted, in pixels, and the last step from there to a planar map: corrections and the finished size.

Fitting takes long and hardly depends on the finished size; what is here takes little and does. So they are kept apart.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.model.label_map import LabelMap
from bisectum.core.model.picture import frozen
from bisectum.core.model.placement import Placement
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.cracks import CrackGraph
from bisectum.core.steps.lines.corrections import Lines, corrected
from bisectum.core.steps.lines.settings import Correction


@dataclass(frozen=True, slots=True)
class FittedLines:
    """curves: (S, 4, 2) of each chain, px; straight: (S,) of each; junctions : (J, 2), px x, y; labels : (F,) uint8, of each
    area; graph: how chains, junctions and areas hang together. deviation: px; repaired : (K, 2), as in PlanarMap, px."""

    curves: tuple[NDArray[np.float64], ...]
    straight: tuple[NDArray[np.bool_], ...]
    junctions: NDArray[np.float64]
    labels: NDArray[np.uint8]
    graph: CrackGraph
    deviation: float
    repaired: NDArray[np.float64]

    def check(self) -> None:
        """Raises: BrokenStructure where the numbers of chains and junctions do not agree."""
        if not len(self.curves) == len(self.straight) == len(self.graph.first) - 1:
            raise BrokenStructure("There is one curve for each chain.")
        if len(self.junctions) != len(self.graph.junctions):
            raise BrokenStructure("There is one place for each junction.")


def with_corrections(
    fitted: FittedLines, label_map: LabelMap, corrections: tuple[Correction, ...], places: Placement,
    progress: Progress = SILENT,
) -> PlanarMap:
    """The planar map at the finished size, with the corrections by hand. places: where marks lie on the labels.

    Raises: Cancelled.
    """
    scale = label_map.mm_per_px
    height, width = label_map.labels.shape
    graph = fitted.graph
    lines = Lines(list(fitted.curves), list(fitted.straight), graph.ends, fitted.junctions)
    left_out = list(range(len(corrections)))
    if corrections and fitted.curves:
        lines, left_out = corrected(lines, corrections, places, max(height, width), 1 / scale, progress)
    counts = np.array([len(curves) for curves in lines.curves], np.int64)
    return PlanarMap(
        segments=frozen(np.concatenate(lines.curves) * scale), straight=frozen(np.concatenate(lines.straight)),
        first=frozen(np.concatenate([[0], np.cumsum(counts)])), sides=frozen(graph.sides), ends=frozen(graph.ends),
        junctions=frozen(lines.junctions * scale),
        spoke_first=frozen(np.concatenate([[0], np.cumsum((graph.spokes >= 0).sum(axis=1))]).astype(np.int64)),
        spokes=frozen(graph.spokes[graph.spokes >= 0]),
        face_labels=frozen(fitted.labels.astype(np.uint16)), palette=label_map.palette, mm_per_px=scale, width=width * scale,
        height=height * scale, deviation=fitted.deviation * scale, repaired=frozen(fitted.repaired * scale),
        left_out=tuple(left_out),
    )
