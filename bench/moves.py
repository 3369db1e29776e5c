"""Whether groups of pieces arrive whole where they are moved to, and leave the map as it was when they are moved back.

Run: make moves [COUNT=300]. Drawings and groups are random; every third is kept unseen while anything is tuned.
"""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from tests.support.moves import moved_and_back

SAME = 1e-9  # of the picture: what numbers of a file do not hold


def main(count: int) -> None:
    off = np.array([moved_and_back(seed) for seed in range(count)])
    kept = np.arange(count) % 3 == 2
    for name, own in (("tuned", off[~kept]), ("unseen", off[kept])):
        differing = int((own > SAME).sum())
        print(f"{name:<8}{len(own):6d} groups, {differing} left a difference, at most {own.max():.1e} of the picture")


if __name__ == "__main__":
    main(int(next((word for word in sys.argv[1:] if word.isdigit()), 300)))
