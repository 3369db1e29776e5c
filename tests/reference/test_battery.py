"""Pictures that nobody made for Bisectum, all the way to a file that is read back and rendered; make battery does far more."""

from __future__ import annotations

import numpy as np
import pytest

from bisectum.core.model.artwork import Artwork
from tests.support.asserts import trace
from tests.support.battery import BUILDS, TREATMENTS, tried
from tests.support.strangers import PATTERNS, SKIMAGE, SKLEARN, Stranger, compressed, cropped, resized, strangers

PIXELS = 9_000
COUNTS = (0, 2, 3, 5, 8)
EVERY = {stranger.name: stranger for stranger in strangers(8)}


@pytest.mark.parametrize("name", [*SKIMAGE, *SKLEARN, *PATTERNS, *(name for name in EVERY if name.startswith("icon"))])
def test_strangers_reach_a_file(name: str) -> None:
    number = list(EVERY).index(name)
    stranger: Stranger = EVERY[name]
    rng = np.random.default_rng(number)
    rgba = stranger.load()
    rgba = cropped(rgba, rng) if number % 3 == 0 else rgba
    rgba = resized(rgba, min(PIXELS, rgba.shape[0] * rgba.shape[1]))
    if number % 3 == 1:
        rgba = compressed(rgba, 70)
    cache: dict[str, object] = {}
    for build, count, treatment in ((BUILDS[number % 3], COUNTS[number % len(COUNTS)], ""),  # make battery takes them through all
                                    (BUILDS[(number + 1) % 3], 0, TREATMENTS[number % len(TREATMENTS)])):
        trial = tried(name, rgba, build, count, cache, treatment=treatment)
        assert not trial.faults, (trial.name, trial.faults[:3])


EVERYTHING = {"smallest_mm2": 0, "smallest_window_mm2": 0}


def total(artwork: Artwork) -> float:
    return sum(piece.area for layer in artwork.layers for piece in layer.pieces)


@pytest.mark.parametrize("build", BUILDS)
def test_what_a_file_cannot_hold_goes_to_its_neighbour(build: str) -> None:
    """Squares of two pixels, so small that many would close up when numbers are rounded to 0.001 mm."""
    rng = np.random.default_rng(4)
    rgba = np.full((1600, 1600, 4), 255, np.uint8)
    squares = rng.choice(np.array([(200, 60, 40), (30, 60, 120), (240, 200, 60)]), (18, 18))
    rgba[200:236, 200:236, :3] = squares.repeat(2, 0).repeat(2, 1)
    result = trace(rgba, picture={"width_mm": 5.0, "measured": "picture"}, colours={"kind": "clip-art"}, pieces=EVERYTHING,
                   layers={"build": build, "lap_mm": 0.05})
    result.artwork.check()
    assert result.artwork.too_fine > 0
    if build == "flush":
        side = 36 * 5.0 / 1600
        assert total(result.artwork) == pytest.approx(side**2, rel=0.02)  # what went is with its neighbours, nothing is lost
