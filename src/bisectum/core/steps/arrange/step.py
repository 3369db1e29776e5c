"""The Arrange step: the cut lines of all items on one page, as one planar map.

Each item is brought to its finished size exactly and put in its place. Items that nobody has placed
lie side by side. None may lie on another one.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bisectum.core.errors import SettingsError
from bisectum.core.geom.bezier import bounds
from bisectum.core.model.arrangement import Arrangement, Frame, Glance, Member
from bisectum.core.model.palette import Palette
from bisectum.core.model.picture import Measured, frozen
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.steps.arrange.frameless import without_frame
from bisectum.core.steps.arrange.settings import ArrangeSettings, Place

VERSION = 1
Box = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class Laid:
    """An item's map as it is laid down. width_mm: what the item, as `measured` says, is to be wide exactly; None leaves its
    size. glance: the item's labels."""

    item: str
    planar: PlanarMap
    measured: Measured
    width_mm: float | None
    place: Place
    glance: Glance


def arrange(laid: Sequence[Laid], settings: ArrangeSettings) -> Arrangement:
    """All items on one page. Raises: SettingsError where one lies on another, or nothing of one is left to cut."""
    sized = [_sized(one) for one in laid]
    boxes = _boxes_in_row([box for _, _, box in sized], [one.place for one in laid], settings.gap_mm)
    _refuse_overlap(boxes)
    corner = np.array([min(box[0] for box in boxes), min(box[1] for box in boxes)])
    maps, frames, members = [], [], []
    for one, (planar, scale, box), target in zip(laid, sized, boxes, strict=True):
        shift = np.array([target[0] - box[0], target[1] - box[1]]) - corner
        matrix = np.array([[scale, 0.0, shift[0]], [0.0, scale, shift[1]]])
        maps.append(replace(planar, segments=frozen(planar.segments + shift), junctions=frozen(planar.junctions + shift)))
        left, top, right, bottom = (float(value) for value in np.array(target) - np.tile(corner, 2))
        frames.append(Frame(one.item, one.glance, frozen(matrix), (left, top, right, bottom)))
        colours = planar.palette.colours
        members += [Member(one.item, number, colour, (float(x), float(y)))
                    for number, (colour, (x, y)) in enumerate(zip(colours, one.glance.insides(len(colours)), strict=True), 1)]
    width, height = max(frame.box[2] for frame in frames), max(frame.box[3] for frame in frames)
    return Arrangement(_joined(maps, width, height), tuple(members), tuple(frames), width, height)


def _sized(one: Laid) -> tuple[PlanarMap, float, Box]:
    """The map at its size, the factor that made it so, and the box of what its width measures, mm."""
    planar = one.planar
    if not planar.face_labels.any():
        raise SettingsError("Nothing is left to cut: lower the reach of the background, or keep it.", code="nothing_left")
    box = _measured_box(planar, one.measured)
    scale = one.width_mm / (box[2] - box[0]) if one.width_mm is not None else 1.0
    planar = without_frame(planar)
    sized = replace(
        planar, segments=planar.segments * scale, junctions=planar.junctions * scale, mm_per_px=planar.mm_per_px * scale,
        width=planar.width * scale, height=planar.height * scale, deviation=planar.deviation * scale,
    )
    left, top, right, bottom = (value * scale for value in box)
    return sized, scale, (left, top, right, bottom)


def _measured_box(planar: PlanarMap, measured: Measured) -> Box:
    """Left, top, right, bottom of what the width measures: what is cut, or the picture's frame."""
    if measured == "picture":
        return 0.0, 0.0, planar.width, planar.height
    cut = np.append(planar.face_labels > 0, False)[planar.sides]
    left, top, right, bottom = bounds(planar.segments[np.repeat(cut[:, 0] != cut[:, 1], np.diff(planar.first))])
    return float(left), float(top), float(right), float(bottom)


def _boxes_in_row(boxes: list[Box], places: list[Place], gap: float) -> list[Box]:
    """Where each box comes to lie: as was said, the others in a row from left to right, middles level."""
    result: list[Box] = []
    given = [_at(box, place) for box, place in zip(boxes, places, strict=True) if place.is_given]
    cursor = max((box[2] for box in given), default=-gap) + gap
    level = (min(box[1] for box in given) + max(box[3] for box in given)) / 2 if given else 0.0
    for box, place in zip(boxes, places, strict=True):
        if place.is_given:
            result.append(_at(box, place))
            continue
        width, height = box[2] - box[0], box[3] - box[1]
        result.append((cursor, level - height / 2, cursor + width, level + height / 2))
        cursor += width + gap
    return result


def _at(box: Box, place: Place) -> Box:
    """A box with its middle where it was put."""
    width, height = box[2] - box[0], box[3] - box[1]
    x, y = place.x_mm or 0.0, place.y_mm or 0.0
    return x - width / 2, y - height / 2, x + width / 2, y + height / 2


def _refuse_overlap(boxes: list[Box]) -> None:
    for number, one in enumerate(boxes):
        for other in boxes[:number]:
            across = min(one[2], other[2]) - max(one[0], other[0])
            down = min(one[3], other[3]) - max(one[1], other[1])
            if min(across, down) > 1e-6:
                raise SettingsError("Two pictures lie on each other here; put them farther apart.", code="items_overlap")


def _joined(maps: list[PlanarMap], width: float, height: float) -> PlanarMap:
    """Maps that do not touch as one: chains, faces, junctions and labels are numbered through."""
    if len(maps) == 1:
        return replace(maps[0], width=width, height=height)
    faces, chains, places, labels = 0, 0, 0, 0
    sides, ends, spokes, first, spoke_first, names = [], [], [], [np.zeros(1, np.int64)], [np.zeros(1, np.int64)], []
    for planar in maps:
        count = len(planar.face_labels)
        own = planar.sides % (count + 1)  # what lies beyond the picture is numbered last there
        sides.append(np.where(own == count, -1, own + faces).astype(np.int32))
        ends.append(np.where(planar.ends >= 0, planar.ends + places, -1).astype(np.int32))
        spokes.append((planar.spokes + 2 * chains).astype(np.int32))
        spoke_first.append(planar.spoke_first[1:] + spoke_first[-1][-1])
        first.append(planar.first[1:] + first[-1][-1])
        names.append(np.where(planar.face_labels > 0, planar.face_labels + labels, 0).astype(np.uint16))
        faces, chains, places = faces + count, chains + planar.chain_count, places + len(planar.junctions)
        labels += len(planar.palette.colours)
    return PlanarMap(
        segments=frozen(np.concatenate([planar.segments for planar in maps])),
        straight=frozen(np.concatenate([planar.straight for planar in maps])), first=frozen(np.concatenate(first)),
        sides=frozen(np.concatenate(sides)), ends=frozen(np.concatenate(ends)),
        junctions=frozen(np.concatenate([planar.junctions for planar in maps])),
        spoke_first=frozen(np.concatenate(spoke_first)), spokes=frozen(np.concatenate(spokes)),
        face_labels=frozen(np.concatenate(names)),
        palette=Palette(tuple(colour for planar in maps for colour in planar.palette.colours)),
        mm_per_px=min(planar.mm_per_px for planar in maps), width=width, height=height,
        deviation=max(planar.deviation for planar in maps), repaired=sum(planar.repaired for planar in maps),
    )
