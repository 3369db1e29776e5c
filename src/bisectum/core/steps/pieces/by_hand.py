"""What a person does with single pieces, change by change, in the order in which that was done."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import bounds, chords
from bisectum.core.model.inside import place_inside
from bisectum.core.model.net import net_of
from bisectum.core.model.offset import offset, outlines
from bisectum.core.model.palette import MOST_COLOURS, Colour, Palette
from bisectum.core.model.piece_map import Gone, Reason
from bisectum.core.model.placement import Placement
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import relabel
from bisectum.core.steps.pieces.changed import Rings, cut_from, fields_of, laid_under, with_labels
from bisectum.core.steps.pieces.faces import Faces
from bisectum.core.steps.pieces.found import AS_LARGE, Finder
from bisectum.core.steps.pieces.middle_lines import bar
from bisectum.core.steps.pieces.settings import Held, PieceChange

HAND_MM = 0.1  # what a hand is taken to stray by, for lines with few nodes
HOME_MM = 1e-6  # from where it was, a piece is there again
MOST_ROLES = 9


@dataclass(frozen=True, slots=True)
class ByHand:
    """planar: after all changes; gone: what they took away; missed: the numbers of those that found nothing; lifted: maps of
    what has become an item, by its id."""

    planar: PlanarMap
    gone: list[Gone]
    missed: list[int]
    lifted: dict[str, PlanarMap]


@dataclass(frozen=True, slots=True)
class Afloat:
    """A piece on its way. While pieces are moved they lie above the map, so what lay where they pass is there afterwards.

    face: of the map; ring: its outline with its windows, where it is now; home : (S, 4, 2), where it was; fill: what fills its
    place.
    """

    face: int
    ring: Rings
    home: NDArray[np.float64]
    fill: str


class _NotHereError(Exception):
    """The change finds no such piece."""


def changed_by_hand(
    planar: PlanarMap, changes: tuple[PieceChange, ...], places: Placement, scale: float, taken: tuple[Gone, ...] = (),
) -> ByHand:
    """places: from shares of the picture's width to mm of the map; scale: mm of the finished size to a mm of the map; taken: what
    rules have taken: to drop that is no change any more."""
    hand = _Hand(planar, places, scale, taken)
    for number, change in enumerate(changes):
        try:
            hand.make(number, change)
        except _NotHereError:
            hand.missed.append(number)
    hand.settle()
    return ByHand(hand.planar, hand.gone, hand.missed, {name: _welded(parts) for name, parts in hand.lifted.items()})


class _Hand:
    """Changes of labels are gathered on one graph of faces; those of outlines are made at once."""

    def __init__(self, planar: PlanarMap, places: Placement, scale: float, taken: tuple[Gone, ...]) -> None:
        self.planar, self.places, self.scale, self.taken = planar, places, scale, taken
        self.gone: list[Gone] = []
        self.missed: list[int] = []
        self.lifted: dict[str, list[tuple[PlanarMap, int]]] = {}
        self.afloat: list[Afloat] = []
        self._look()

    def _look(self) -> None:
        self.net = net_of(self.planar)
        self.faces = Faces(self.net, np.concatenate([[0], self.planar.face_labels.astype(np.int64)]))
        self.finder = Finder(self.net, self.faces, self.planar.palette, self.places.scale)

    def settle(self) -> None:
        """Bring the map to what the graph says, with all that was moved in its place."""
        self._set_down()
        if self.faces.has_melted:
            labels = np.concatenate([[0], self.faces.labels()[1:]])
            self._take(relabel(self.net, labels, **fields_of(self.planar)))
        self._say()

    def make(self, number: int, change: PieceChange) -> None:
        """Raises: _NotHereError."""
        if change.kind == "keep" or (change.kind == "drop" and self._is_taken(change)):
            return
        if change.kind != "move":
            self._set_down()
        if change.kind in ("bar", "cut", "bridge"):
            self._draw(change)
            return
        if change.kind == "largest":
            self._largest(number, change)
            return
        if change.kind == "move":
            self._move(change)
            return
        face = self._face(change)
        if change.kind == "drop":
            self._drop(number, face, change.fill, "closed" if self.faces.label[face] == 0 else "dropped")
        elif change.kind in ("give", "own"):
            self.faces.give(face, self._target(change, face))
        elif change.kind == "lift":
            self.lifted.setdefault(change.item or "", []).append((self._alone(face), self.faces.label[face]))
            self._drop(number, face, change.fill, "lifted")
        else:
            self._reshape(face, change)

    def _is_taken(self, change: PieceChange) -> bool:
        """Whether a rule has taken a piece already."""
        place, area = self.places.to_px(np.array([change.x, change.y]))[0], change.area * self.places.scale**2
        alike = [one for one in self.taken if area / AS_LARGE <= one.area <= area * AS_LARGE]
        return any(float(((place - one.at) ** 2).sum()) < one.area for one in alike)

    def _face(self, change: PieceChange | Held) -> int:
        place = self.places.to_px(np.array([change.x, change.y]))[0]
        face = self.finder.face(place, change.area, change.colour)
        if face is None:
            raise _NotHereError
        return face

    def _label(self, key: str | None) -> int:
        label = self.finder.label_of(key) if key is not None else None
        if label is None:
            raise _NotHereError
        return label

    def _target(self, change: PieceChange, face: int) -> int:
        return self._label(change.into) if change.kind == "give" else self._own_layer(self.faces.label[face])

    def _own_layer(self, label: int) -> int:
        """A further layer of the same colour."""
        colours = self.planar.palette.colours
        roles = [colour.role for colour in colours if colour.rgb == colours[label - 1].rgb]
        if label == 0 or max(roles) >= MOST_ROLES or len(colours) >= MOST_COLOURS:
            raise _NotHereError
        twin = replace(colours[label - 1], role=max(roles) + 1, share=0.0, pinned=False, given_name="")
        self.planar = replace(self.planar, palette=replace(self.planar.palette, colours=(*colours, twin)))
        self.finder.palette = self.planar.palette
        return len(colours) + 1

    def _drop(self, number: int, face: int, fill: str, reason: Reason) -> None:
        label = self.faces.label[face]
        to = 0 if fill == "open" and label > 0 else self.faces.around(face)
        if to == label or (label > 0 and not self._others(face)):
            raise _NotHereError
        rings = self._rings(face)
        self.gone.append(Gone(label, self.faces.area[face], place_inside(rings[0]), *rings, reason, number))
        self.faces.give(face, to)

    def _others(self, face: int) -> bool:
        """Whether anything else is cut."""
        return any(self.faces.label[other] > 0 for other in self.faces.roots() if other != face)

    def _largest(self, number: int, change: PieceChange) -> None:
        label = self._label(change.colour)
        own = [face for face in self.faces.roots() if self.faces.label[face] == label]
        if len(own) < 2:
            raise _NotHereError
        largest = max(own, key=lambda face: self.faces.area[face])
        for face in own:
            if face != largest and self.faces.parent[face] == face and self.faces.label[face] == label:
                self._drop(number, face, change.fill, "not_largest")

    # Outlines

    def _members(self, face: int) -> NDArray[np.bool_]:
        """The faces of the map that a whole is made of, and last whether the open page is. (F + 1,)."""
        roots = np.array([self.faces.root(own) for own in range(self.net.face_count)])
        return np.append(roots[1:] == face, False)

    def _rings(self, face: int) -> Rings:
        return outlines(self.planar, self._members(face))[:2]

    def _alone(self, face: int) -> PlanarMap:
        """A whole as a map of its own."""
        labels = np.where(self._members(face)[:-1], self.faces.label[face], 0)
        return with_labels(self.planar, labels.astype(np.int64), self.net)

    def _reshape(self, face: int, change: PieceChange) -> None:
        label = self.faces.label[face]
        to = self._filling(face, change.fill)
        shape, before = self._outline(self._members(face), change), self._rings(face)
        self._say()
        over, values, within = laid_under(self.planar, [shape, before])
        values[within[1] & ~within[0]] = to
        values[within[0]] = label
        self._take(cut_from(over, values, self.planar))

    def _filling(self, face: int, fill: str) -> int:
        """The label that fills the place of a piece that goes elsewhere."""
        return self.faces.around(face) if fill == "around" or self.faces.label[face] == 0 else 0

    def _move(self, change: PieceChange) -> None:
        """Move a group of pieces together; they stay afloat until another change concerns the map."""
        wanted: list[PieceChange | Held] = [change, *change.also]
        try:
            group = self._set_afloat(wanted, change.fill)
        except _NotHereError:
            if not self.afloat:
                raise
            self._set_down()  # they may be what is left of pieces under others
            group = self._set_afloat(wanted, change.fill)
        place = self._placed(np.concatenate([self.afloat[number].ring[0] for number in group]), change)
        for number in group:
            one = self.afloat[number]
            self.afloat[number] = replace(one, ring=(place(one.ring[0]), one.ring[1]))

    def _set_afloat(self, wanted: Sequence[PieceChange | Held], fill: str) -> list[int]:
        """The numbers of pieces afloat, those that lie in the map still among them. Raises: _NotHereError, and none is then."""
        there = [self._afloat(one) for one in wanted]
        faces = list(dict.fromkeys(self._face(one) for one, number in zip(wanted, there, strict=True) if number is None))
        roots = np.array([self.faces.root(face) for face in range(self.net.face_count)])
        count = len(self.afloat)
        for face in faces:
            ring = outlines(self.planar, np.append(roots[1:] == face, False))[:2]
            self.afloat.append(Afloat(face, ring, ring[0], fill))
        return [number for number in dict.fromkeys(there) if number is not None] + list(range(count, len(self.afloat)))

    def _afloat(self, wanted: PieceChange | Held) -> int | None:
        """The number of the piece afloat that is meant; the one set afloat last lies on top."""
        place, area = self.places.to_px(np.array([wanted.x, wanted.y]))[0], wanted.area * self.places.scale**2
        for number in reversed(range(len(self.afloat))):
            one = self.afloat[number]
            own = self.faces.area[one.face]
            alike = wanted.colour is not None and self.faces.label[one.face] == self.finder.label_of(wanted.colour)
            if alike and area / AS_LARGE <= own <= area * AS_LARGE and _covers(one.ring, place):
                return number
        return None

    def _set_down(self) -> None:
        """Lift what is afloat out of the map, and lay it down where it was moved to. What has come back never left."""
        away, self.afloat = [one for one in self.afloat if np.abs(one.ring[0] - one.home).max() > HOME_MM], []
        if not away:
            return
        shapes = [(one.ring, self.faces.label[one.face]) for one in away]
        for one in sorted(away, key=lambda one: -self.faces.area[one.face]):  # what lies within another one after that
            face = self.faces.root(one.face)
            self.faces.give(face, self._filling(face, one.fill))
        self._put(shapes)

    def _say(self) -> None:
        """Bring the labels of the map to what the graph says, lines left as they are, so that numbers of faces stay."""
        labels = self.faces.labels()[1:]
        self.planar = replace(self.planar, face_labels=labels.astype(np.uint16))

    def _outline(self, members: NDArray[np.bool_], change: PieceChange) -> Rings:
        """The new outline of faces that grow, shrink or are evened out."""
        fields: dict[str, Any] = {**fields_of(self.planar), "palette": Palette((Colour((0, 0, 0), 1.0),))}
        amount = change.amount_mm / self.scale
        steps = (amount,) if change.kind == "grow" else (-amount, 2 * amount, -amount)
        shape = self.planar
        inside = members
        for step in steps:
            shape = offset(shape, inside, step, **fields)
            inside = np.append(shape.face_labels > 0, False)
            if not inside.any():
                raise _NotHereError
        return outlines(shape, inside)[:2]

    def _placed(self, segments: NDArray[np.float64], change: PieceChange) -> Callable[[NDArray[np.float64]], NDArray[np.float64]]:
        """Where places go: moved, and turned and sized about the middle of segments : (S, 4, 2)."""
        left, top, right, bottom = bounds(segments)
        middle = np.array([(left + right) / 2, (top + bottom) / 2])
        angle = np.radians(change.turn_deg)
        turn = change.scale * np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        shift = self.places.matrix[:, :2] @ np.array([change.dx, change.dy])
        if change.turn_deg == 0 and change.scale == 1:
            return lambda places: places + shift  # so that what comes back lies where it lay
        return lambda places: (places - middle) @ turn.T + middle + shift

    def _draw(self, change: PieceChange) -> None:
        line = self.places.to_px(np.array(change.line))
        ring = bar(line, change.amount_mm / self.scale, HAND_MM)
        if change.kind == "cut":
            self._say()
            over, values, within = laid_under(self.planar, [ring])
            values[within[0] if change.colour is None else within[0] & (values == self._label(change.colour))] = 0
            if not values.any():
                raise _NotHereError
            self._take(cut_from(over, values, self.planar))
        else:
            self._put([(ring, self._label(change.colour))], under=change.kind == "bridge")

    def _put(self, shapes: list[tuple[Rings, int]], under: bool = False) -> None:
        """Lay shapes on the map. under: only where nothing is cut."""
        self._say()
        over, values, within = laid_under(self.planar, [ring for ring, _ in shapes])
        for inside, (_, label) in zip(within, shapes, strict=True):
            values[inside & (values == 0) if under else inside] = label
        self._take(cut_from(over, values, self.planar))

    def _take(self, planar: PlanarMap) -> None:
        self.planar = planar
        self._look()


def _covers(ring: Rings, place: NDArray[np.float64]) -> bool:
    """Whether a place lies within rings, by the even-odd rule."""
    x0, y0, x1, y1 = chords(ring[0], HAND_MM)[0].T
    x, y = place
    passed = (y0 > y) != (y1 > y)
    return bool((x < x0[passed] + (y - y0[passed]) * (x1 - x0)[passed] / (y1 - y0)[passed]).sum() % 2)


def _area(planar: PlanarMap) -> float:
    return float(net_of(planar).areas()[1:][planar.face_labels > 0].sum())


def _welded(parts: list[tuple[PlanarMap, int]]) -> PlanarMap:
    """Maps of single pieces as one, small ones on top: they may have lain within larger ones."""
    parts = sorted(parts, key=lambda part: -_area(part[0]))
    planar = parts[0][0]
    for other, label in parts[1:]:
        ring = outlines(other, np.append(other.face_labels > 0, False))[:2]
        over, values, within = laid_under(planar, [ring])
        values[within[0]] = label
        planar = cut_from(over, values, planar)
    return planar
