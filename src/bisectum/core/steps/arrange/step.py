"""The Arrange step: the cut lines of all items on one page, as one planar map.

Each item is brought to its finished size exactly and put in its place. Items that nobody has placed lie side by side. Those
that touch are laid over each other (core/geom/overlay); then each face gets what lies on it, by the part every item has.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.geom.bezier import bounds
from bisectum.core.geom.overlay.network import Curves
from bisectum.core.geom.overlay.overlay import Overlay, overlay
from bisectum.core.model.arrangement import Arrangement, Frame, Glance, Member
from bisectum.core.model.clip import clipped
from bisectum.core.model.finding import Finding
from bisectum.core.model.frameless import without_frame
from bisectum.core.model.net import faces_at, net_of
from bisectum.core.model.offset import curves_of, sweep_of
from bisectum.core.model.palette import Palette
from bisectum.core.model.picture import Measured, frozen
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import labels_from, relabel, without_slivers
from bisectum.core.model.stroke import Stroke, Strokes
from bisectum.core.model.stroke import placed as _placed
from bisectum.core.steps.arrange.parts import stacked, visible
from bisectum.core.steps.arrange.settings import ArrangeSettings, Part, Place

VERSION = 3
Box = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class Laid:
    """An item's map as it is laid down. width_mm: what the item, as `measured` says, is to be wide exactly; None leaves its
    size. glance: the item's labels. fixed: it lies where it is, as a border does. box: what is placed, mm, where that is not what
    `measured` says: of words on a circle the whole circle. strokes: mm of its map."""

    item: str
    planar: PlanarMap
    measured: Measured
    width_mm: float | None
    place: Place
    part: Part
    glance: Glance
    fixed: bool = False
    box: Box | None = None
    strokes: Strokes = ()


@dataclass(frozen=True, slots=True)
class Placed:
    """An item on the table. matrix : (2, 3), from mm of its own map; box: of what its width measures, turned and all; size: its
    width and height before it is turned, mm."""

    laid: Laid
    planar: PlanarMap
    matrix: NDArray[np.float64]
    box: Box
    size: tuple[float, float]

    @property
    def strokes(self) -> Strokes:
        """Its strokes on the table, labels as in its own map."""
        return _placed(self.laid.strokes, self.matrix)


def place(laid: Sequence[Laid], settings: ArrangeSettings) -> list[Placed]:
    """All items on the table, in mm from its origin, which is no corner of the page.

    Raises: SettingsError where nothing of a picture is left to cut.
    """
    own = [_own_box(one) for one in laid]
    turned = [_turned(one.place, scale) for one, (scale, _) in zip(laid, own, strict=True)]
    boxes = [_box_of(matrix, box) for matrix, (_, box) in zip(turned, own, strict=True)]
    targets = _boxes_in_row(boxes, [one.place for one in laid], [one.fixed for one in laid], settings.gap_mm)
    result = []
    for one, (scale, measured), matrix, box, target in zip(laid, own, turned, boxes, targets, strict=True):
        shift = np.array([target[0] - box[0], target[1] - box[1]])
        size = (measured[2] - measured[0]) * scale, (measured[3] - measured[1]) * scale * one.place.stretch
        result.append(Placed(one, without_frame(one.planar), np.column_stack([matrix, shift]), target, size))
    return result


def arrange(placed: Sequence[Placed]) -> Arrangement:
    """All items on one page. Raises: SettingsError where nothing is left to cut."""
    members = [member for one in placed for member in _members(one)]
    groups = _touching(placed)
    unbound: list[Finding] = []
    maps, stacks = [], []
    for group in groups:
        planar, stack, lost = _laid_over([placed[k] for k in group], members)
        unbound += lost
        wide = np.zeros((len(stack), len(placed)), np.int64)
        wide[:, group] = stack
        maps.append(planar)
        stacks.append(wide)
    strokes = _strokes_of(placed, members)
    left, top, right, bottom = _page(placed, maps, strokes)
    corner = np.array([left, top])
    maps = [_moved(planar, -corner) for planar in maps]
    width, height = right - left, bottom - top
    planar = _joined(maps, tuple(colour for one in placed for colour in one.planar.palette.colours), width, height)
    frames = tuple(Frame(one.laid.item, one.laid.glance, frozen(one.matrix - np.column_stack([np.zeros((2, 2)), corner])),
                         (one.box[0] - left, one.box[1] - top, one.box[2] - left, one.box[3] - top), one.size) for one in placed)
    shifted = _placed(strokes, np.column_stack([np.eye(2), -corner]))
    return Arrangement(planar, tuple(members), frames, width, height, frozen(np.concatenate(stacks)), (left, top), tuple(unbound),
                       shifted)


def _strokes_of(items: Sequence[Placed], members: Sequence[Member]) -> Strokes:
    """The strokes of all items, with the labels of the make, without what items above them take away."""
    found: list[Stroke] = []
    for number, one in enumerate(items):
        first = next((k for k, member in enumerate(members) if member.item == one.laid.item), 0)
        own = [replace(stroke, label=stroke.label + first) for stroke in one.strokes]
        for above in items[number + 1 :]:
            part = above.laid.part
            if not own or part.kind not in ("cuts", "keeps"):
                continue
            planar = _alone(above, 0, {})[0]
            net, cut = net_of(planar), np.append(0, planar.face_labels) > 0

            def inside(places: NDArray[np.float64], net: Overlay = net, cut: NDArray[np.bool_] = cut) -> NDArray[np.bool_]:
                return np.asarray(cut[faces_at(net, places)])

            own = [rest for stroke in own for rest in clipped(stroke, inside, part.kind == "keeps")]
        found += own
    return tuple(found)


def _members(one: Placed) -> list[Member]:
    """The labels of an item, as those of the make."""
    colours = one.planar.palette.colours
    areas = one.planar.half_areas()
    filled = np.zeros(len(colours) + 1)
    for face, loop in one.planar.loops():
        if face >= 0:
            filled[one.planar.face_labels[face]] += max(0.0, float(areas[loop].sum())) * _scale(one) ** 2
    return [Member(one.laid.item, number, colour, (float(x), float(y)), float(filled[number]))
            for number, (colour, (x, y)) in enumerate(zip(colours, one.laid.glance.insides(len(colours)), strict=True), 1)]


def union_of(placed: Sequence[Placed], **of_map: Any) -> PlanarMap:
    """All that is cut of some items, on the table, as one map with label 1."""
    inputs = [curves_of(one.planar, one.matrix) for one in placed]
    over = overlay(inputs)
    cut = np.zeros(over.face_count, bool)
    for number, one in enumerate(placed):
        cut |= labels_from(over, number, one.planar) > 0
    return relabel(over, cut, **of_map)


def _own_box(one: Laid) -> tuple[float, Box]:
    """The factor that brings an item to its size, and the box of what its width measures in its own mm."""
    if not one.planar.face_labels.any() and not one.strokes:
        if one.glance.is_plain:
            raise SettingsError("Nothing of an item has an area that could be cut; make it larger, or take it out.",
                                code="nothing_in_item", item=one.item)
        raise SettingsError("Nothing is left to cut: lower the reach of the background, or keep it.", code="nothing_left")
    box = one.box or _measured_box(one.planar, one.measured, one.strokes)
    return one.width_mm / (box[2] - box[0]) if one.width_mm is not None else 1.0, box


def _turned(place: Place, scale: float) -> NDArray[np.float64]:
    """Stretched, mirrored and turned about its middle: (2, 2)."""
    if place == Place(x_mm=place.x_mm, y_mm=place.y_mm, locked=place.locked):
        return np.array([[scale, 0.0], [0.0, scale]])
    angle = np.radians(place.turn_deg)
    c, s = np.round([np.cos(angle), np.sin(angle)], 15)
    own = np.diag([-scale if place.mirrored else scale, scale * place.stretch])
    return np.asarray(np.array([[c, -s], [s, c]]) @ own)


def _box_of(matrix: NDArray[np.float64], box: Box) -> Box:
    """The box around a turned one."""
    corners = np.array([(box[0], box[1]), (box[2], box[1]), (box[2], box[3]), (box[0], box[3])]) @ matrix.T
    low, high = corners.min(axis=0), corners.max(axis=0)
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def _measured_box(planar: PlanarMap, measured: Measured, strokes: Strokes) -> Box:
    """Left, top, right, bottom of what the width measures: what is cut, or the picture's frame."""
    if measured == "picture":
        return 0.0, 0.0, planar.width, planar.height
    cut = np.append(planar.face_labels > 0, False)[planar.sides]
    own = planar.segments[np.repeat(cut[:, 0] != cut[:, 1], np.diff(planar.first))]
    left, top, right, bottom = bounds(np.concatenate([own, *(stroke.segments for stroke in strokes)]))
    return float(left), float(top), float(right), float(bottom)


def _boxes_in_row(boxes: list[Box], places: list[Place], fixed: list[bool], gap: float) -> list[Box]:
    """Where each box comes to lie: as was said, the others in a row from left to right, middles level."""
    result: list[Box] = []
    given = [_at(box, place) for box, place in zip(boxes, places, strict=True) if place.is_given]
    cursor = max((box[2] for box in given), default=-gap) + gap
    level = (min(box[1] for box in given) + max(box[3] for box in given)) / 2 if given else 0.0
    for box, place, stays in zip(boxes, places, fixed, strict=True):
        if stays:
            result.append(box)
        elif place.is_given:
            result.append(_at(box, place))
        else:
            width, height = box[2] - box[0], box[3] - box[1]
            result.append((cursor, level - height / 2, cursor + width, level + height / 2))
            cursor += width + gap
    return result


def _at(box: Box, place: Place) -> Box:
    """A box with its middle where it was put."""
    width, height = box[2] - box[0], box[3] - box[1]
    x, y = place.x_mm or 0.0, place.y_mm or 0.0
    return x - width / 2, y - height / 2, x + width / 2, y + height / 2


def _touching(placed: Sequence[Placed]) -> list[list[int]]:
    """Numbers of items in groups that may touch, by their boxes and margins; items that reach everywhere join all below them."""
    group = list(range(len(placed)))
    reach = [_reach(one) for one in placed]

    def root(k: int) -> int:
        while group[k] != k:
            k = group[k]
        return k

    for number, one in enumerate(reach):
        for other in range(number):
            near = (min(one[2], reach[other][2]) >= max(one[0], reach[other][0])
                    and min(one[3], reach[other][3]) >= max(one[1], reach[other][1]))
            if near or placed[number].laid.part.kind == "keeps" or placed[number].laid.part.targets:
                a, b = sorted((root(number), root(other)))
                group[b] = a
    found: dict[int, list[int]] = {}
    for number in range(len(placed)):
        found.setdefault(root(number), []).append(number)
    return list(found.values())


def _reach(one: Placed) -> Box:
    """The box of all that an item may touch."""
    margin = (one.laid.part.clear_mm or 0.0) + 0.01
    if not len(one.planar.segments):
        left, top, right, bottom = one.box
        return left - margin, top - margin, right + margin, bottom + margin
    left, top, right, bottom = bounds(one.planar.segments @ one.matrix[:, :2].T + one.matrix[:, 2])
    return left - margin, top - margin, right + margin, bottom + margin


def _laid_over(group: Sequence[Placed], members: Sequence[Member]) -> tuple[PlanarMap, NDArray[np.int64], list[Finding]]:
    """Items that may touch, as one map on the table: its labels are the make's; and what lies on each of its faces."""
    items = [one.laid.item for one in group]
    offsets = [next(k for k, member in enumerate(members) if member.item == item) for item in items]
    fields = {"palette": Palette(()), "mm_per_px": min(_scale(one) * one.planar.mm_per_px for one in group), "width": 0.0,
              "height": 0.0, "deviation": max(_scale(one) * one.planar.deviation for one in group)}
    if len(group) == 1 and group[0].laid.part.kind in ("adds", "melts"):
        return _alone(group[0], offsets[0], fields)
    inputs, margin_of = _inputs(group)
    over = overlay(inputs)
    labels = np.stack([_labels_on(over, number, one, offsets[number]) for number, one in enumerate(group)], axis=1)

    def near(number: int) -> NDArray[np.bool_]:
        return (labels[:, number] > 0) | (over.labels[:, margin_of[number]] > 0)

    stack, lost = stacked(labels, near, [one.laid.part for one in group], items, members)
    stack[0] = 0
    kinds, which = np.unique(stack, axis=0, return_inverse=True)  # the first is all 0, since labels are not below
    which = without_slivers(over, which.reshape(-1))
    planar = relabel(over, which, **fields)
    stack = kinds[planar.face_labels.astype(np.int64)]
    findings = [Finding("part_unbound", "warning", item=item, details={"colour": target.colour}) for item, target in lost]
    return replace(planar, face_labels=frozen(visible(stack).astype(np.uint16))), stack, findings


def _alone(one: Placed, offset: int, fields: dict[str, Any]) -> tuple[PlanarMap, NDArray[np.int64], list[Finding]]:
    """An item that touches no other: its own map, brought to its place."""
    planar = one.planar
    mirrored = np.linalg.det(one.matrix[:, :2]) < 0
    names = np.where(planar.face_labels > 0, planar.face_labels.astype(np.int64) + offset, 0)
    segments = planar.segments @ one.matrix[:, :2].T + one.matrix[:, 2]
    junctions = planar.junctions @ one.matrix[:, :2].T + one.matrix[:, 2]
    sides, spokes = planar.sides, planar.spokes
    if mirrored:
        sides = np.ascontiguousarray(sides[:, ::-1])
        spokes = np.concatenate([spokes[a:b][::-1] for a, b in zip(planar.spoke_first[:-1], planar.spoke_first[1:], strict=True)]
                                or [spokes])
    placed = replace(planar, segments=frozen(segments), junctions=frozen(junctions), sides=frozen(sides), spokes=frozen(spokes),
                     face_labels=frozen(names.astype(np.uint16)), **fields)
    return placed, names[:, None], []


def _inputs(group: Sequence[Placed]) -> tuple[list[Curves], dict[int, int]]:
    """What is laid over each other: the items' maps, then their margins; and which input is whose margin."""
    inputs = [curves_of(one.planar, one.matrix) for one in group]
    margin_of: dict[int, int] = {}
    for number, one in enumerate(group):
        if one.laid.part.clear_mm and one.laid.part.kind != "keeps":
            margin_of[number] = len(inputs)
            inputs.append(_margin(one))
    return inputs, margin_of


def _margin(one: Placed) -> Curves:
    """What lies within an item's margin, on the table."""
    planar = _alone(one, 0, {})[0]
    return sweep_of(planar, np.append(planar.face_labels > 0, False), one.laid.part.clear_mm or 0.0)


def _labels_on(over: Overlay, number: int, one: Placed, offset: int) -> NDArray[np.int64]:
    own = labels_from(over, number, one.planar)
    return np.where(own > 0, own + offset, 0)


def _scale(one: Placed) -> float:
    return float(np.sqrt(abs(np.linalg.det(one.matrix[:, :2]))))


def _page(placed: Sequence[Placed], maps: list[PlanarMap], strokes: Strokes) -> Box:
    """The corners of the page: all that is cut, folded or drawn, and the frames of pictures that are measured by them."""
    cut = [bounds(planar.segments) for planar in maps if planar.face_labels.any()]
    cut += [bounds(stroke.segments) for stroke in strokes]
    if not cut:
        raise SettingsError("Nothing is left to cut: an item takes everything away. Change what it does, or hide it.",
                            code="all_taken_away")
    boxes = [one.box for one in placed]
    cut += [one.box for one in placed if one.laid.measured == "picture" and one.laid.part.kind in ("adds", "melts")]
    edges = [min(box[0] for box in cut), min(box[1] for box in cut), max(box[2] for box in cut), max(box[3] for box in cut)]
    # A size that was given is met to the last digit.
    return cast(Box, tuple(next((box[k] for box in boxes if abs(box[k] - edge) < 1e-6), edge) for k, edge in enumerate(edges)))


def _moved(planar: PlanarMap, shift: NDArray[np.float64]) -> PlanarMap:
    return replace(planar, segments=frozen(planar.segments + shift), junctions=frozen(planar.junctions + shift))


def _joined(maps: list[PlanarMap], colours: tuple[Any, ...], width: float, height: float) -> PlanarMap:
    """Maps that do not touch as one: chains, faces and junctions are numbered through."""
    if len(maps) == 1:
        return replace(maps[0], width=width, height=height, palette=Palette(colours))
    faces, chains, places, spoked, drawn = 0, 0, 0, 0, 0
    sides, ends, spokes, first, spoke_first = [], [], [], [np.zeros(1, np.int64)], [np.zeros(1, np.int64)]
    for planar in maps:
        count = len(planar.face_labels)
        own = planar.sides % (count + 1)  # what lies beyond the picture is numbered last there
        sides.append(np.where(own == count, -1, own + faces).astype(np.int32))
        ends.append(np.where(planar.ends >= 0, planar.ends + places, -1).astype(np.int32))
        spokes.append((planar.spokes + 2 * chains).astype(np.int32))
        spoke_first.append(planar.spoke_first[1:] + spoked)
        first.append(planar.first[1:] + drawn)
        faces, chains, places = faces + count, chains + planar.chain_count, places + len(planar.junctions)
        spoked, drawn = spoked + len(planar.spokes), drawn + len(planar.segments)
    return PlanarMap(
        segments=frozen(np.concatenate([planar.segments for planar in maps])),
        straight=frozen(np.concatenate([planar.straight for planar in maps])), first=frozen(np.concatenate(first)),
        sides=frozen(np.concatenate(sides)), ends=frozen(np.concatenate(ends)),
        junctions=frozen(np.concatenate([planar.junctions for planar in maps])),
        spoke_first=frozen(np.concatenate(spoke_first)), spokes=frozen(np.concatenate(spokes)),
        face_labels=frozen(np.concatenate([planar.face_labels for planar in maps])), palette=Palette(colours),
        mm_per_px=min(planar.mm_per_px for planar in maps), width=width, height=height,
        deviation=max(planar.deviation for planar in maps),
    )
