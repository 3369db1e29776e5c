"""What mends a finding of the cut check: changes of a job like any others, that can be looked at first and undone."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.job import JobDocument, LetteringItem, PictureItem
from bisectum.core.make import MakeResult
from bisectum.core.model.arrangement import Member
from bisectum.core.model.artwork import Layer
from bisectum.core.model.net import faces_at, net_of
from bisectum.core.steps.check.flaw import Flaw
from bisectum.core.steps.pieces.settings import MOST_POINTS

WIDER = 1.06  # times the limit: what is just as wide as the limit would be found again by rounding
NEXT_MM = 0.1  # beside a gap is what it is a gap of
FEWER_SHARE, LARGER = 0.7, 2.0  # of the colours that stay; times the smallest piece
ROUND = 6


@dataclass(frozen=True, slots=True)
class Edit:
    """A change of one step. item: of one picture's step; empty for a step of the make; step: "item" for own fields of an item.
    settings: fields replaced; add: members added at the end of lists."""

    item: str
    step: str
    settings: dict[str, Any] = field(default_factory=dict)
    add: dict[str, list[Any]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Repair:
    """code: what is done, the interface words it. edits: in their order; none where it only opens the step where one does it by
    hand, which is `opens`."""

    code: str
    edits: tuple[Edit, ...] = ()
    opens: str = ""


@dataclass(frozen=True, slots=True, eq=False)
class Whereabouts:
    """Where places of a page are within items."""

    document: JobDocument
    result: MakeResult

    def members(self, at: tuple[float, float]) -> list[Member]:
        """What lies at a place of the page, the topmost first."""
        arrangement = self.result.arrangement
        face = int(faces_at(net_of(arrangement.planar), np.array([at]))[0]) - 1
        if face < 0:
            return []
        return [arrangement.members[label - 1] for label in arrangement.stack[face][::-1].tolist() if label > 0]

    def of_layer(self, at: tuple[float, float], layer: Layer) -> Member | None:
        """What of a layer is seen at a place of the page."""
        there = self.members(at)
        held = {(hold.item, hold.colour) for hold in layer.holds}
        return there[0] if there and (there[0].item, there[0].colour.key) in held else None

    def beside(self, at: tuple[float, float], reach: float, layer: Layer) -> Member | None:
        """What of a layer is seen nearest to a place of the page."""
        for angle in np.linspace(0, 2 * np.pi, 17)[:-1]:
            found = self.of_layer((at[0] + reach * float(np.cos(angle)), at[1] + reach * float(np.sin(angle))), layer)
            if found is not None:
                return found
        return None

    def item_at(self, at: tuple[float, float]) -> str:
        """The item that a place of the page belongs to: what is seen there, or else the topmost whose box it lies in."""
        there = self.members(at)
        if there:
            return there[0].item
        for frame in reversed(self.result.arrangement.frames):
            left, top, right, bottom = frame.box
            if left <= at[0] <= right and top <= at[1] <= bottom:
                return frame.item
        return self.result.arrangement.frames[-1].item


def repairs_of(flaw: Flaw, where: Whereabouts) -> tuple[Repair, ...]:
    """What mends a finding, the best first."""
    return tuple(_repairs(flaw, where))


def _repairs(flaw: Flaw, where: Whereabouts) -> Iterator[Repair]:
    code = flaw.finding.code
    if code == "film_on_film":
        yield Repair("knock_out", (Edit("", "layers", {"knock_out": True}),))
    elif code == "many_films" and where.document.make.layers.build == "stacked":
        yield Repair("less_film", (Edit("", "layers", {"build": "auto"}),))
    elif code in ("not_mirrored", "mirrored_anyway"):
        yield Repair("mirror_by_material", (Edit("", "sheets", {"mirror": "by_material"}),))
    elif code == "reads_backwards":
        yield Repair("turn_lettering", (Edit(flaw.finding.item, "item", {"place": {"mirrored": False}}),))
    elif code == "larger_than_mat":
        yield Repair("split", (Edit("", "sheets", {"split": "calm"}),))
        yield Repair("open_sheets", opens="sheets")
    elif code == "alike_layers":
        yield from _one_layer(flaw, where)
    elif code == "much_work":
        yield from _less_work(where)
    elif code == "few_pixels":
        yield Repair("open_picture", opens="picture")
    elif code == "frame_left":
        at = flaw.finding.at
        yield from _dropped(flaw, where, flaw.finding.item, where.members(at)[0]) if at and where.members(at) else ()
    elif flaw.finding.at is not None and flaw.layer >= 0:
        yield from _of_place(flaw, where, where.result.artwork.layers[flaw.layer])


def _of_place(flaw: Flaw, where: Whereabouts, layer: Layer) -> Iterator[Repair]:
    code, at = flaw.finding.code, flaw.finding.at
    assert at is not None
    limit = flaw.finding.limit or 0.0
    member = where.beside(at, limit / 2 + NEXT_MM, layer) if code == "narrow_gap" else where.of_layer(at, layer)
    if member is None and code.startswith("narrow") and where.members(at):
        member = where.members(at)[0]  # it lies on the layer, which runs on under it, and is widened with it
    item = member.item if member else where.item_at(at)
    is_picture = item in where.result.courses
    if code == "small_window" and is_picture:
        yield from _dropped(flaw, where, item, None)
    elif member is None or not is_picture:
        yield Repair("open_arrange" if not is_picture else "open_pieces", opens="arrange" if not is_picture else "pieces")
    elif code in ("narrow_neck", "narrow_hair", "narrow_scrap", "narrow_gap"):
        width = max(limit, _limit_of(where, layer)) * WIDER  # what closes a gap is no narrow place itself
        yield Repair("close_gap" if code == "narrow_gap" else "widen", (_bar(flaw, where, member, width),))
    elif code == "small_piece":
        yield from _dropped(flaw, where, item, member)
    elif code == "island":
        yield Repair("bridge", (Edit(item, "pieces", {"bridge_mm": max(1.0, _limit_of(where, layer))}),))
    elif code in ("dense_nodes", "tight_bends"):
        lines = where.document.picture(item).course.lines
        yield Repair("fewer_nodes", (Edit(item, "lines", {"closeness_mm": round(min(2.0, lines.closeness_mm * 1.5), 3)}),))
    else:
        yield Repair("open_lines", opens="lines")


def _limit_of(where: Whereabouts, layer: Layer) -> float:
    make = where.document.make
    return make.check.of(layer.stock.kind if layer.stock else make.layers.material).width_mm


def _bar(flaw: Flaw, where: Whereabouts, member: Member, width: float) -> Edit:
    """A bar along a narrow place, of the colour that is too narrow there."""
    line = flaw.line
    along = np.append(0.0, np.cumsum(np.hypot(*np.diff(line, axis=0).T)))
    spacing = max(width / 4, along[-1] / (MOST_POINTS - 2))
    line = line[np.append(np.diff(np.floor(along / spacing), prepend=-1.0)[:-1] > 0, True)]
    if along[-1] < width / 4:  # a place and no stretch
        line = line[:1] + np.array([[-width / 4, 0.0], [width / 4, 0.0]])
    shares = where.result.placement(member.item).to_shares(line)
    return Edit(member.item, "pieces", add={"changes": [{
        "kind": "bar", "colour": member.colour.key, "amount_mm": round(width, 3), "line": _rounded(shares)}]})


def _dropped(flaw: Flaw, where: Whereabouts, item: str, member: Member | None) -> Iterator[Repair]:
    """A piece taken out, or a window closed."""
    placement = where.result.placement(item)
    x, y = placement.to_shares(np.array(flaw.finding.at))[0].tolist()
    change = {"kind": "drop", "x": round(x, ROUND), "y": round(y, ROUND), "area": flaw.area / placement.scale**2,
              "colour": member.colour.key if member is not None else None,
              "fill": "open" if flaw.finding.code == "frame_left" else "around"}
    yield Repair("close_window" if member is None else "take_out", (Edit(item, "pieces", add={"changes": [change]}),))


def _rounded(shares: NDArray[np.float64]) -> list[list[float]]:
    places: list[list[float]] = np.round(shares, ROUND).tolist()
    return places


def _one_layer(flaw: Flaw, where: Whereabouts) -> Iterator[Repair]:
    """Two layers cut as one."""
    layers = where.result.artwork.layers
    into, other = layers[flaw.layer], layers[int(flaw.finding.details["number"])]
    records = where.document.make.layers.records
    before = next((record for record in records if record.id and record.id == into.id), None)
    rest = [record.model_dump() for record in records if record.id not in (into.id, other.id)]
    anchors = [{"item": hold.item, "colour": hold.colour, "x": hold.x, "y": hold.y} for hold in (*into.holds, *other.holds)]
    joined = {**(before.model_dump() if before else {"id": "", "name": None, "colour": None, "stock": None}), "anchors": anchors}
    yield Repair("join_layers", (Edit("", "layers", {"records": [*rest, joined]}),))


def _less_work(where: Whereabouts) -> Iterator[Repair]:
    """Fewer tones or colours, a larger smallest piece, one dark tone."""
    shown = [item for item in where.document.pictures if item.id in where.result.courses and not item.hidden]
    counts = [(item, _fewer(item, where)) for item in shown]
    fewer = tuple(Edit(item.id, "colours", fields) for item, fields in counts if fields)
    if fewer:
        yield Repair("fewer_colours", fewer)
    larger = []
    for item in shown:
        piece = where.result.courses[item.id].pieces.least[0]
        larger.append(Edit(item.id, "pieces", {"smallest_mm2": round(min(400.0, max(1.0, piece) * LARGER), 2)}))
    if larger:
        yield Repair("larger_pieces", tuple(larger))
    photographs = [item for item in shown if where.result.courses[item.id].label_map.palette.method == "tones"
                   and item.course.colours.treatment != "dark"]
    if photographs:
        yield Repair("one_dark", tuple(Edit(item.id, "colours", {"treatment": "dark"}) for item in photographs))


def _fewer(item: PictureItem, where: Whereabouts) -> dict[str, Any]:
    now = len(where.result.courses[item.id].label_map.palette.colours)
    fewer = max(2, int(now * FEWER_SHARE))
    return {"count": fewer, "thresholds": ()} if fewer < now else {}


def lettering_of(document: JobDocument) -> list[LetteringItem]:
    return [item for item in document.items if isinstance(item, LetteringItem) and not item.hidden]
