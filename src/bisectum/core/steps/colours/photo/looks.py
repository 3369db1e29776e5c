"""The colours that the classes of a photograph are shown and cut in."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bisectum.core.steps.colours.by_hand import Entry
from bisectum.core.steps.colours.photo.inks import Inks
from bisectum.core.steps.colours.photo.working import Working

INK_DARKEST = 0.5  # of its pixels, whose mean is the colour of what is drawn


def mean_colours(rgb: NDArray[np.uint8], labels: NDArray[np.uint8], count: int) -> tuple[Entry, ...]:
    """The mean colour of each class. rgb : (H, W, 3); labels : (H, W), k + 1 for class k."""
    return _entries(np.rint(own.mean(axis=0)) if len(own) else np.zeros(3)
                    for own in (rgb[labels == k + 1] for k in range(count)))


def ink_colours(inks: Inks) -> tuple[Entry, ...]:
    """What inks look like."""
    return _entries(inks.rgb.astype(float))


def drawn_colour(working: Working, drawn: NDArray[np.bool_]) -> Entry:
    """The mean of the darker half of what is drawn. drawn : (H, W)."""
    light = working.light[drawn]
    dark = working.rgb[drawn][light <= np.quantile(light, INK_DARKEST)]
    return _entries([np.rint(dark.mean(axis=0))])[0]


def unlike(entry: Entry, others: tuple[Entry, ...]) -> Entry:
    """An entry with a role that no other of its colour has, so that each has a key of its own."""
    taken = {other.role for other in others if other.rgb == entry.rgb}
    return replace(entry, role=next(role for role in range(1, 260) if role not in taken))


def _entries(colours: Iterable[NDArray[np.floating]]) -> tuple[Entry, ...]:
    result: list[Entry] = []
    for colour in colours:
        red, green, blue = (int(value) for value in colour)
        result.append(unlike(Entry((red, green, blue), tonal=True), tuple(result)))
    return tuple(result)
