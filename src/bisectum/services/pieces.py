"""The pieces of a picture for the screen: each with its outline, its size, and what a change by hand holds on to."""

from __future__ import annotations

import itertools
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from bisectum.core.course import CourseResult
from bisectum.core.formats.svg.write import path_data
from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Layer, Piece
from bisectum.core.model.inside import inside
from bisectum.core.model.net import faces_at, net_of
from bisectum.core.model.offset import outlines_of_faces
from bisectum.core.model.placement import Placement
from bisectum.core.model.words import words_of
from bisectum.core.steps.pieces.by_size import standing_out
from bisectum.core.steps.pieces.faces import Faces

Box = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class PieceRow:
    """A piece, or a window where it has no colour. area_mm2: of the finished size; area: in shares of the picture's width
    squared; at: a place in it, shares; box: left, top, right, bottom of what its lines lie within, and path: SVG path data,
    both mm of the map. widest_mm, least_mm: how wide it is, and how wide where it is narrowest. reason: why it is gone, empty
    while it is there; change: the number of the change by hand that took it, or -1. kept: small, but it tells; stands_out: it
    would be kept if all of its colour were small. word, line: numbers of the word and the line of writing it belongs to, -1 for
    none."""

    colour: str
    area_mm2: float
    area: float
    at: tuple[float, float]
    box: Box
    path: str
    widest_mm: float
    least_mm: float
    reason: str = ""
    change: int = -1
    kept: bool = False
    stands_out: bool = False
    word: int = -1
    line: int = -1


@dataclass(frozen=True, slots=True)
class PieceList:
    """rows: those that are there, then those that are gone. width: of the map, mm; scale: mm of the finished size to one of
    it."""

    rows: tuple[PieceRow, ...]
    width: float
    scale: float


def piece_list(course: CourseResult) -> PieceList:
    """All pieces and windows of a picture, and all that went."""
    pieces = course.pieces
    planar = pieces.planar
    places = course.picture.places.scaled(planar.width / course.picture.width)
    net = net_of(planar)
    areas = net.areas()[1:]
    kept = set((faces_at(net, pieces.kept) - 1).tolist()) if len(pieces.kept) else set()
    graph = Faces(net, np.concatenate([[0], planar.face_labels.astype(np.int64)]))
    stands_out = {face - 1 for face in standing_out(graph, planar.palette)}
    rows = []
    drawn = outlines_of_faces(planar, range(len(planar.face_labels)))
    for face, label in enumerate(planar.face_labels.tolist()):
        colour = planar.palette.colours[label - 1].key if label else ""
        row = _row(colour, float(areas[face]), *drawn[face], pieces.scale, places)
        rows.append(replace(row, kept=face in kept, stands_out=face in stands_out))
    if course.label_map.page is not None:
        rows = _in_words(rows)
    for one in pieces.gone:
        colour = planar.palette.colours[one.label - 1].key if one.label else ""
        row = _row(colour, one.area, one.segments, one.straight, pieces.scale, places)
        rows.append(replace(row, reason=one.reason, change=one.change))
    return PieceList(tuple(rows), planar.width, pieces.scale)


def _in_words(rows: list[PieceRow]) -> list[PieceRow]:
    """Pieces of writing with their words and lines."""
    own = [k for k, row in enumerate(rows) if row.colour]
    found = words_of(np.array([rows[k].box for k in own]).reshape(-1, 4))
    result = list(rows)
    for k, word, line in zip(own, found.words.tolist(), found.lines.tolist(), strict=True):
        result[k] = replace(rows[k], word=word, line=line)
    return result


def _row(
    colour: str, area: float, segments: NDArray[np.float64], straight: NDArray[np.bool_],
    scale: float, places: Placement,
) -> PieceRow:
    look = inside(segments)
    x, y = places.to_shares(np.array(look.at))[0].tolist()
    (left, top), (right, bottom) = segments.min(axis=(0, 1)).tolist(), segments.max(axis=(0, 1)).tolist()
    first = _starts(segments)
    rings = [Path(segments[a:b], straight[a:b]) for a, b in itertools.pairwise(first)]
    path = path_data(Layer("", "", (0, 0, 0), tuple(Piece(ring, ()) for ring in rings)))
    return PieceRow(colour, area * scale**2, area / places.scale**2, (x, y),
                    (left, top, right, bottom), path, look.widest * scale, look.least * scale)


def _starts(segments: NDArray[np.float64]) -> NDArray[np.int64]:
    begins = np.flatnonzero((segments[1:, 0] != segments[:-1, 3]).any(axis=1)) + 1
    return np.concatenate([[0], begins, [len(segments)]])
