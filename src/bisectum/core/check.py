"""The cut check of a make: what is to be looked at before it is cut, what mends it, and what a person knows already."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.job import JobDocument
from bisectum.core.make import MakeResult
from bisectum.core.model.artwork import Artwork, Layer
from bisectum.core.model.finding import Finding
from bisectum.core.model.net import faces_at, net_of
from bisectum.core.model.stock import PRESSED
from bisectum.core.model.work import Work, work_of, work_of_layers
from bisectum.core.progress import SILENT, Progress
from bisectum.core.repairs import Repair, Whereabouts, lettering_of, repairs_of
from bisectum.core.steps.check.flaw import Flaw
from bisectum.core.steps.check.settings import Ignored
from bisectum.core.steps.check.step import check_artwork
from bisectum.core.steps.layers.thickness import MANY, thickest
from bisectum.core.steps.sheets.marks import reach_of
from bisectum.core.steps.sheets.split import is_larger
from bisectum.core.steps.sheets.step import Desk

MOST_PLACES = 20  # of a kind that are told
NEAR_MM = 1.5  # as far off its place a finding is still the one that was ignored
"""Findings move a little when lines are drawn anew."""


@dataclass(frozen=True, slots=True)
class Checked:
    """A finding. known: how it is named when it is to be ignored; ignored: it is. repairs: what mends it, the best first."""

    finding: Finding
    known: Ignored
    ignored: bool
    repairs: tuple[Repair, ...]


@dataclass(frozen=True, slots=True)
class CutCheck:
    """findings: the gravest first. work: of the make; of_layers: of each layer."""

    findings: tuple[Checked, ...]
    work: Work
    of_layers: tuple[Work, ...]

    @property
    def to_look_at(self) -> int:
        """How many findings are more than a note, and not ignored."""
        return sum(one.finding.severity != "note" and not one.ignored for one in self.findings)


def check_make(
    document: JobDocument, result: MakeResult, desk: Desk, told: Sequence[Finding] = (), progress: Progress = SILENT
) -> CutCheck:
    """desk: as for laying out sheets. told: findings of items that belong here. Raises: Cancelled."""
    artwork = result.artwork
    flaws = [*_of_sheets(document, artwork, desk), *_of_items(document, result), *_of_thickness(artwork, desk),
             *(Flaw(finding) for finding in told), *check_artwork(artwork, desk.kind, document.make.check, progress)]
    where = Whereabouts(document, result)
    found = tuple(_checked(flaw, where) for flaw in flaws)
    return CutCheck(found, work_of(artwork), tuple(work_of_layers([layer]) for layer in artwork.layers))


def _checked(flaw: Flaw, where: Whereabouts) -> Checked:
    known = _known(flaw, where)
    ignored = any(_is_same(known, other, where) for other in where.document.make.check.ignored)
    return Checked(flaw.finding, known, ignored, repairs_of(flaw, where))


def _known(flaw: Flaw, where: Whereabouts) -> Ignored:
    finding = flaw.finding
    layer = where.result.artwork.layers[flaw.layer] if flaw.layer >= 0 else None
    name = (layer.id or layer.key)[:20] if layer else ""
    if finding.at is None:
        return Ignored(code=finding.code, layer=name, item=finding.item or None)
    item = where.item_at(finding.at)
    x, y = where.result.placement(item).to_shares(np.array(finding.at))[0].tolist()
    return Ignored(code=finding.code, layer=name, item=item, x=round(x, 6), y=round(y, 6))


def _is_same(one: Ignored, other: Ignored, where: Whereabouts) -> bool:
    if (one.code, one.layer, one.item) != (other.code, other.layer, other.item):
        return False
    if one.item is None or (one.x, one.y) == (other.x, other.y):
        return True
    away = np.hypot(one.x - other.x, one.y - other.y) * where.result.placement(one.item).scale
    return bool(away <= NEAR_MM)


def _of_thickness(artwork: Artwork, desk: Desk) -> Iterator[Flaw]:
    """More films over each other than can be pressed or bent. Card is stacked on purpose."""
    films = replace(artwork, layers=tuple(layer for layer in artwork.layers if desk.kind(layer) != "card"))
    thick = thickest(films)
    if thick.is_many:
        yield Flaw(Finding("many_films", "note", at=thick.at, value=thick.films, limit=MANY))


def _of_sheets(document: JobDocument, artwork: Artwork, desk: Desk) -> Iterator[Flaw]:
    """Whether it can be loaded, and whether what is pressed is cut the other way round."""
    sheets = document.make.sheets
    try:
        area = desk.area()
    except SettingsError as error:
        yield Flaw(Finding("no_usable_area", "fault", details={"carrier": sheets.carrier.name, "why": error.code}))
        return
    if sheets.layout == "in_place" and sheets.split == "none" and is_larger(artwork, area, reach_of(sheets)):
        details = {"carrier": sheets.carrier.name, "wide": round(area.width), "high": round(area.height)}
        yield Flaw(Finding("larger_than_mat", "fault", value=round(max(artwork.width, artwork.height), 1),
                           limit=round(max(area.width, area.height), 1), details=details))
    for number, layer in enumerate(artwork.layers):
        if desk.kind(layer) in PRESSED and not desk.is_mirrored(layer):
            yield _of_mirror("not_mirrored", "warning", layer, number)
            break


def _of_mirror(code: str, severity: str, layer: Layer, number: int) -> Flaw:
    return Flaw(Finding(code, severity, details={"layer": layer.name}), number)  # type: ignore[arg-type]


def _of_items(document: JobDocument, result: MakeResult) -> Iterator[Flaw]:
    """Lettering that reads backwards, and frames of ground that were left over."""
    for item in lettering_of(document):
        frames = [frame for frame in result.arrangement.frames if frame.item == item.id]
        if frames and item.place.mirrored:
            left, top, right, bottom = frames[0].box
            yield Flaw(Finding("reads_backwards", "warning", item=item.id, at=((left + right) / 2, (top + bottom) / 2),
                               details={"name": item.name}))
    for item_id, course in result.courses.items():
        for suggestion in course.pieces.suggestions:
            if suggestion.kind == "frame" and any(frame.item == item_id for frame in result.arrangement.frames):
                yield from _frame(item_id, suggestion.places, result)
        yield from _of_close_lines(item_id, result)


def _of_close_lines(item: str, result: MakeResult) -> Iterator[Flaw]:
    """Places where lines would have crossed, and are drawn through all of their points instead."""
    frames = [frame for frame in result.arrangement.frames if frame.item == item]
    for place in result.courses[item].planar_map.repaired[:MOST_PLACES] if frames else ():
        x, y = (frames[0].matrix[:, :2] @ place + frames[0].matrix[:, 2]).tolist()
        yield Flaw(Finding("drawn_closely", "note", item=item, at=(x, y)))


def _frame(item: str, places: NDArray[np.float64], result: MakeResult) -> Iterator[Flaw]:
    """A piece that runs around all others of its picture. places : (N, 2), mm of the item's map."""
    matrix = np.asarray(result.arrangement.frame(item).matrix)
    on_page = places @ matrix[:, :2].T + matrix[:, 2]
    net = net_of(result.arrangement.planar)
    for at, face in zip(on_page.tolist(), faces_at(net, on_page).tolist(), strict=True):
        if face > 0:
            finding = Finding("frame_left", "note", item=item, at=(at[0], at[1]))
            yield Flaw(finding, area=float(net.areas()[face]))
