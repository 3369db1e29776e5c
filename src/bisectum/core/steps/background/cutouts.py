"""The cut-outs of a photograph: what a person may choose from, and which of them may be made without asking.

One is made without asking where it stands out so much by its colours, or by being in focus, that no scene without a subject
does; where the networks are sure of it; or where both find the same. Else nothing is taken away, since a lost eye is worse than
a press more.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.ground import Cutout
from bisectum.core.raster.resample import reduce_to
from bisectum.core.steps.background.focus import find_in_focus, up_to_sharp_edges
from bisectum.core.steps.background.network import Seen, overlap
from bisectum.core.steps.background.subject import SURE, Guess, find_subject

ALONE, SUPPORTED = 0.5, 0.1  # sureness of the networks from which they are believed, alone and where colours say the same
SAME = 0.85  # intersection over union of two cut-outs of one subject
MOST_OUTSIDE, MOST_TAKEN = 0.1, 0.85  # likelihood left outside, in the mean; share of the picture that is subject
STANDS_OUT = 0.75  # score from which colours are believed alone, as focus is
CONTRADICTED = 0.15  # likelihood left outside times sureness from which the networks see the subject where another cut has none
FOCUS_PX = 600_000  # pixels that blur is measured in: in fewer of them all is sharp
LEAST = 0.005  # share of the picture: less is nothing


def what_stands_out(rgba: NDArray[np.uint8], small: NDArray[np.uint8]) -> Guess:
    """What is in focus, if that is clear; else what is salient by its colours.

    rgba : (H, W, 4) uint8, the whole picture; small : (h, w, 4), the same as large as the answer is to be.
    """
    solved = np.ascontiguousarray(small[..., :3])
    by_colour = find_subject(solved)
    measured = np.ascontiguousarray(reduce_to(rgba, FOCUS_PX)[0][..., :3])
    focused = find_in_focus(measured, solved)
    if focused is None:
        return by_colour
    # Where both mean the same subject, colours know its outline better than a few sharp edges do.
    mask = by_colour.mask if overlap(focused.mask, by_colour.mask) >= SAME else focused.mask
    return Guess(mask, SURE + (1 - SURE) * focused.score, focused.likely, up_to_sharp_edges(measured, mask))


def is_sure(seen: Seen) -> bool:
    """Whether what the networks see may be cut out without any other evidence."""
    return seen.sure >= ALONE and seen.outside(seen.best) <= MOST_OUTSIDE and LEAST <= seen.best.mean() <= MOST_TAKEN


def certain_cutout(seen: Seen | None, guess: Guess) -> Cutout | None:
    """The cut-out that may be made without asking, if there is one. seen: None where there are no networks; guess: by colours
    or focus."""
    if seen is None:
        return _by_contrast(guess) if guess.score >= SURE else None
    if guess.score >= STANDS_OUT and seen.sure * seen.outside(guess.mask) <= CONTRADICTED:
        return _by_contrast(guess)
    supported = seen.sure >= SUPPORTED and overlap(seen.best, guess.mask) >= SAME
    return best_seen(seen) if supported or is_sure(seen) else None


def cutouts_of(seen: Seen | None, guess: Guess) -> tuple[Cutout, ...]:
    """What there is to choose from, no two alike; what may be made without asking is the first."""
    found: list[Cutout] = []
    certain = certain_cutout(seen, guess)
    for one in sorted(_all(seen, guess), key=lambda one: certain is None or one.name != certain.name):
        if LEAST <= one.mask.mean() <= 1 - LEAST and all(overlap(one.mask, other.mask) < SAME for other in found):
            found.append(one)
    return tuple(found)


def _all(seen: Seen | None, guess: Guess) -> Iterator[Cutout]:
    if seen is not None:
        yield best_seen(seen)
        if seen.closer is not None:
            yield Cutout("whole", seen.mask) if seen.best is seen.closer else Cutout("closer", seen.closer)
    yield _by_contrast(guess)


def best_seen(seen: Seen) -> Cutout:
    return Cutout("closer" if seen.best is seen.closer else "whole", seen.best)


def _by_contrast(guess: Guess) -> Cutout:
    return Cutout("contrast", guess.mask, guess.fine)

