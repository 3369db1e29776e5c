"""Whether lines stay smooth where shapes touch: each drawing is traced with its parts just touching and a little apart.

Told are the nodes of the one over those of the other, staircases (rows of short straight lines, as pixels have them), and by
how much a colour's area is off. Every third drawing is kept unseen while anything is tuned. Run: make touching [COUNT=300].
"""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from bisectum.core.course import CourseSettings, Source, run_course  # noqa: E402
from bisectum.core.model.planar_map import PlanarMap  # noqa: E402
from tests.support.touching import areas_of, pair_of, staircases  # noqa: E402


def traced(rgba: NDArray[np.uint8]) -> PlanarMap:
    settings = CourseSettings().changed("colours", {"kind": "clip-art"}).changed("pieces", {"smallest_mm2": 0})
    return run_course(Source(rgba, 0.2, f"{hash(rgba.tobytes()):x}"), settings, {}).planar_map


def main(count: int, details: bool) -> None:
    rows: dict[tuple[str, bool], list[tuple[float, int, float]]] = {}
    for pair in map(pair_of, range(count)):
        together, apart = traced(pair.touching), traced(pair.apart)
        together.check()
        ratio, stairs = len(together.segments) / len(apart.segments), staircases(together)
        off = max(abs(own / true - 1) for own, true in zip(areas_of(together), pair.areas, strict=True))
        for group in (pair.kind, pair.way, "all"):
            rows.setdefault((group, pair.number % 3 == 2), []).append((ratio, stairs, off))
        if details and (ratio > 1.5 or stairs):
            print(f"  {pair.number} {pair.kind}, {pair.way}: {len(together.segments)} nodes, {len(apart.segments)} apart, "
                  f"{stairs} staircases, {len(together.repaired)} repaired")
    print(f"{'':<28}{'drawings':>9}{'nodes ÷ apart':>15}{'greatest':>10}{'> 1.5':>7}{'staircases':>12}{'area off':>10}")
    for (group, kept), own in sorted(rows.items()):
        ratios, stairs, off = (np.array(column) for column in zip(*own, strict=True))
        print(f"{group + (', unseen' if kept else ''):<28}{len(own):9d}{np.median(ratios):15.2f}{ratios.max():10.2f}"
              f"{int((ratios > 1.5).sum()):7d}{int(stairs.sum()):12d}{off.max():10.2%}")


if __name__ == "__main__":
    main(int(next((word for word in sys.argv[1:] if word.isdigit()), 300)), "--details" in sys.argv)
