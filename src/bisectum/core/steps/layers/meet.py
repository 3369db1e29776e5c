"""The pieces of every layer, by how it meets those that lie on it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import get_args

import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.artwork import Piece
from bisectum.core.model.outlined import connected_faces, pieces_of_faces
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.progress import Part, Progress
from bisectum.core.steps.layers.knock_out import clear_of_film
from bisectum.core.steps.layers.lapped import lapped_pieces
from bisectum.core.steps.layers.settings import Build

MOST_LAPPED = 3_000  # segments: the whole pieces of a busier make have no lap, which would take minutes to draw


@dataclass(frozen=True, slots=True)
class Ways:
    """How layers meet. build: of a layer and one that lies on it, by their numbers; lap: mm; knocked: the layers that are left
    out where film lies on them, with a gap around it, mm."""

    build: Callable[[int, int], Build]
    lap: float
    knocked: frozenset[int] = frozenset()
    gap: float = 0.0


@dataclass(frozen=True, slots=True)
class FilmPieces:
    """The pieces of a layer, and the numbers of the layers above that they run on under."""

    pieces: tuple[Piece, ...]
    under: tuple[int, ...] = ()


def seen_of(layers_on: NDArray[np.intp]) -> NDArray[np.intp]:
    """The layer that is seen on each face, -1 for none. layers_on : (F, I)."""
    seen = np.full(len(layers_on), -1, np.intp)
    for column in layers_on.T:
        seen = np.where(column >= 0, column, seen)
    return seen


def pieces_of_layers(
    planar: PlanarMap, layers_on: NDArray[np.intp], order: list[int], ways: Ways, progress: Progress
) -> list[FilmPieces]:
    """The pieces of each layer, in the order given. layers_on : (F, I), the layers that lie on a face, -1 for none.

    A layer runs under others of the items it is in, and under items that lie on it; under nothing else. Raises: Cancelled.
    """
    seen = seen_of(layers_on)
    pieces = []
    for place, layer in enumerate(order):
        progress.raise_if_cancelled()
        progress.report(place / len(order))
        part = Part(progress, place / len(order), (place + 1) / len(order))
        own, above = seen == layer, np.isin(seen, order[place + 1 :])
        if layer in ways.knocked:
            pieces.append(FilmPieces(clear_of_film(planar, with_page(own), with_page(above), ways.gap, part)))
            continue
        under = _under(layers_on, layer, order[place + 1 :]) & ~own
        by_build = {build: under & np.isin(seen, [upper for upper in order if ways.build(layer, upper) == build])
                    for build in get_args(Build)}
        solid = own | by_build["stacked"]
        solid |= _whole_below(planar, solid, (layers_on == layer).any(axis=1), by_build["whole"])
        lapped = (by_build["lapped"] | (by_build["whole"] & (len(planar.segments) <= MOST_LAPPED))) & ~solid
        if not lapped.any():
            film = pieces_of_faces(planar, with_page(solid), bool((solid & ~own).any()), part)
        else:
            film = lapped_pieces(planar, with_page(solid), with_page(lapped), ways.lap, part)
        hidden = (solid & ~own) | (lapped & _beside(planar, solid))
        pieces.append(FilmPieces(film, tuple(upper for upper in order[place + 1 :] if (hidden & (seen == upper)).any())))
    return pieces


def _beside(planar: PlanarMap, faces: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """The faces that share a line with some of these. faces : (F,) bool."""
    inside, beside = with_page(faces), np.zeros(len(faces) + 1, bool)
    left, right = planar.sides.T
    beside[left[inside[right]]] = beside[right[inside[left]]] = True
    return beside[:-1]


def _whole_below(
    planar: PlanarMap, solid: NDArray[np.bool_], there: NDArray[np.bool_], above: NDArray[np.bool_]
) -> NDArray[np.bool_]:
    """The covered faces that make the pieces of a layer whole; (F,) bool.

    These are the layer's faces under other items, where they hang together with what is seen of it, and what lies above and is
    surrounded by the layer alone. solid : (F,), what the layer has already; there : (F,), where one of its items has it;
    above : (F,), what covers it.
    """
    hidden = above & there
    group = connected_faces(planar, with_page(solid | hidden))[:-1]
    hidden &= np.isin(group, np.unique(group[solid]))
    solid = with_page(solid | hidden)
    set_in = with_page(above) & ~solid
    group, areas, beyond = connected_faces(planar, set_in), planar.half_areas(), planar.sides.ravel()
    surrounded = [group[face] for face, loop in planar.loops(set_in) if areas[loop].sum() > 0 and solid[beyond[loop]].all()]
    return hidden | (set_in & np.isin(group, surrounded))[:-1]


def _under(layers_on: NDArray[np.intp], layer: int, above: list[int]) -> NDArray[np.bool_]:
    """Where a layer may run, out of sight."""
    under = np.zeros(len(layers_on), bool)
    for column in layers_on.T[(layers_on == layer).any(axis=0)]:
        under |= (column == layer) | np.isin(column, above)
    return under


def with_page(faces: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Faces, and last what lies beyond them, which is none of these."""
    return np.append(faces, False)
