"""The make: the courses of all items of a job, and the steps that concern them together.

    item: picture → background → colours → lines → pieces ─┐
    item: lettering, shape, drawn → its map ────────────────┤ arrange → layers
    item: border, of the others' outlines ──────────────────┘

All results go into one cache by content, so two items that do not change cost nothing when a third one does.
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from bisectum.core.cache import Cache, Memory, Run
from bisectum.core.course import CourseResult, Source, run_course
from bisectum.core.errors import SettingsError
from bisectum.core.items.border import border_map
from bisectum.core.items.drawn import drawn_rings
from bisectum.core.items.lettering import Fonts, lettering_rings
from bisectum.core.items.lines import MadeLines, made_of_lines
from bisectum.core.items.ready import centred, of_map, welded
from bisectum.core.items.shapes import shape_rings
from bisectum.core.job import (
    BorderItem,
    DrawnItem,
    Item,
    JobDocument,
    LetteringItem,
    LiftedItem,
    LinesItem,
    PictureItem,
    ShapeItem,
)
from bisectum.core.model.arrangement import GLANCE_PX, Arrangement, Glance
from bisectum.core.model.artwork import Artwork
from bisectum.core.model.painted import painted
from bisectum.core.model.picture import frozen
from bisectum.core.model.placement import Placement
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.ready_lines import ReadyLines
from bisectum.core.model.stroke import Strokes
from bisectum.core.progress import SILENT, Part, Progress
from bisectum.core.steps.arrange import step as arrange
from bisectum.core.steps.arrange.settings import Place
from bisectum.core.steps.layers import step as layers

MADE_VERSION = 2
OF_ITEMS = 0.9  # of the whole progress


@dataclass(frozen=True, slots=True)
class MakeResult:
    """What a job gives. courses: of each item, by its id; fresh: the steps that had to be worked out anew, those of items as
    (item, step), those of the make as ("", step). maps: of items that are no pictures, by their id; missing: of
    lettering by its id, the characters that its font lacks; open_lines: of ready lines by its id, how many do not close;
    unsized: those whose file does not say what its numbers are.
    finished: the step of each result that was worked out, in their order."""

    courses: dict[str, CourseResult]
    arrangement: Arrangement
    artwork: Artwork
    key: str
    fresh: tuple[tuple[str, str], ...]
    maps: dict[str, PlanarMap] = field(default_factory=dict)
    missing: dict[str, str] = field(default_factory=dict)
    open_lines: dict[str, int] = field(default_factory=dict)
    unsized: frozenset[str] = frozenset()
    finished: tuple[str, ...] = ()

    def placement(self, item: str) -> Placement:
        """From shares of the width of the picture that came in to mm on the page; of an item that is no picture from its own mm.

        Raises: KeyError.
        """
        matrix = np.asarray(self.arrangement.frame(item).matrix)
        if item not in self.courses:
            return Placement(matrix)
        course = self.courses[item]
        return course.picture.places.scaled(course.planar_map.width / course.picture.width).then(matrix)


def run_make(
    sources: Mapping[str, Source], document: JobDocument, cache: Cache, progress: Progress = SILENT, most_px: int | None = None,
    treated_px: int | None = None, fonts: Fonts | None = None, lines: Mapping[str, ReadyLines] | None = None,
) -> MakeResult:
    """Run the courses of all items and the steps after them.

    sources: decoded pictures by the digest of their file; fonts: their files, by name; lines: of vector files, by their digest.
    most_px: work on pictures reduced to so many pixels; treated_px: see run_course. Raises: SettingsError when nothing is left
    to cut, or an item cannot be made; Cancelled. """
    shown = [item for item in document.items if not item.hidden]
    if not shown:
        raise SettingsError("Every item is hidden; show one.", code="all_hidden")
    courses: dict[str, CourseResult] = {}
    lifted_from = {item.made.source for item in shown if isinstance(item, LiftedItem)}
    pictures = [item for item in document.pictures if not item.hidden or item.id in lifted_from]
    share = OF_ITEMS / max(1, len(pictures))
    for number, item in enumerate(pictures):
        part = Part(progress, number * share, (number + 1) * share)
        courses[item.id] = run_course(sources[item.source], item.course, cache, part, most_px, treated_px)
    run = Run(cache, progress)
    maps = {item.id: _made(item, fonts or {}, run) for item in shown
            if not isinstance(item, PictureItem | BorderItem | LiftedItem | LinesItem)}
    ready = {item.id: _ready(item, lines or {}, run) for item in shown if isinstance(item, LinesItem)}
    maps |= {name: (key, one.planar, "") for name, (key, one) in ready.items()}
    strokes = {name: one.strokes for name, (_, one) in ready.items()}
    maps |= {item.id: (f"{courses[item.made.source].key}/{item.made.digest}", lifted, "") for item in shown
             if isinstance(item, LiftedItem) and (lifted := _lifted(item, courses)) is not None}
    shown = [item for item in shown if not isinstance(item, LiftedItem) or item.id in maps]
    key, (arrangement, own_maps, missing) = run.step(
        "arrange", arrange.VERSION, document.make.arrange.digest, _taken(shown, courses, maps), (OF_ITEMS, OF_ITEMS + 0.02),
        lambda _: _arranged(shown, courses, maps, document, strokes))
    shape = _shape(shown, courses, maps, arrangement)
    key, artwork = run.step(
        "layers", layers.VERSION, document.make.layers.digest_without("variants"), key, (OF_ITEMS + 0.02, 1.0),
        lambda part: layers.build_layers(arrangement, document.make.layers, part, Memory(cache, shape)))
    fresh = [(item, step) for item, course in courses.items() for step in course.fresh] + [("", step) for step in run.fresh]
    return MakeResult(courses, arrangement.with_room(artwork.room), artwork, key, tuple(fresh), own_maps, missing,
                      {name: one.open_lines for name, (_, one) in ready.items() if one.open_lines},
                      frozenset(name for name, (_, one) in ready.items() if not one.sized),
                      (*(step for course in courses.values() for step in course.finished), *run.finished))


Made = tuple[str, PlanarMap, str]
"""What names an item's map, the map, and the characters that its font lacks."""


def _made(item: LetteringItem | ShapeItem | DrawnItem, fonts: Fonts, run: Run) -> Made:
    """The map of an item that is no picture. Raises: SettingsError."""
    def work(_: Progress) -> tuple[PlanarMap, str]:
        if isinstance(item, LetteringItem):
            rings, missing = lettering_rings(item.made, fonts)
            return welded(rings, item.made.colour, about=(0.0, 0.0) if item.made.along == "circle" else None), missing
        if isinstance(item, ShapeItem):
            return welded(shape_rings(item.made), item.made.colour), ""
        return welded(drawn_rings(item.made), item.made.colour, not item.made.closed, about=(0.0, 0.0)), ""

    key, (planar, missing) = run.step(f"arrange/{item.kind}", MADE_VERSION, item.made.digest, "", (OF_ITEMS, OF_ITEMS), work)
    return key, planar, missing


def _ready(item: LinesItem, lines: Mapping[str, ReadyLines], run: Run) -> tuple[str, MadeLines]:
    """The cut lines and strokes of a vector file. Raises: SettingsError."""
    key, made = run.step("arrange/lines", MADE_VERSION, item.made.digest, "", (OF_ITEMS, OF_ITEMS),
                         lambda _: made_of_lines(lines[item.made.source], item.made))
    return key, made


def _lifted(item: LiftedItem, courses: Mapping[str, CourseResult]) -> PlanarMap | None:
    """The map of what was lifted out of a picture, at its finished size; None where nothing was found."""
    if item.made.source not in courses:
        return None
    pieces = courses[item.made.source].pieces
    planar = pieces.lifted.get(item.id)
    if planar is None or not planar.face_labels.any():
        return None
    scale = pieces.scale * item.made.factor
    return centred(replace(planar, segments=frozen(planar.segments * scale), junctions=frozen(planar.junctions * scale),
                           mm_per_px=planar.mm_per_px * scale, deviation=planar.deviation * scale))


def _arranged(
    shown: list[Item], courses: Mapping[str, CourseResult], maps: Mapping[str, Made], document: JobDocument,
    strokes: Mapping[str, Strokes],
) -> tuple[Arrangement, dict[str, PlanarMap], dict[str, str]]:
    """All items on one page, the maps of those that are no pictures, and the characters that fonts lack. Borders are made of
    the others where they lie.

    Raises: SettingsError.
    """
    laid = [_laid(item, courses, maps, strokes) for item in shown if not isinstance(item, BorderItem)]
    if not laid:
        raise SettingsError("A border needs something to go around; bring in another item.", code="border_around_nothing")
    placed = {one.laid.item: one for one in arrange.place(laid, document.make.arrange)}
    for item in shown:
        if isinstance(item, BorderItem):
            named = [name for name in item.made.around if name in placed]
            around = [placed[other.id] for other in shown if other.id in (named or placed)
                      and not isinstance(other, BorderItem) and other.part.kind in ("adds", "melts")]
            if around:
                whole = arrange.union_of(around, **of_map(item.made.colour))
                outline = border_map(whole, item.made)
                border = arrange.Laid(item.id, outline, "artwork", None, Place(), item.part, Glance.plain(), fixed=True)
                placed[item.id] = arrange.place([border], document.make.arrange)[0]
    missing = {name: lacking for name, (_, _, lacking) in maps.items() if lacking}
    own_maps = {name: one.planar for name, one in placed.items() if name not in courses}
    return arrange.arrange([placed[item.id] for item in shown if item.id in placed]), own_maps, missing


def _taken(shown: list[Item], courses: Mapping[str, CourseResult], maps: Mapping[str, Made]) -> str:
    """What names all that the arrangement is made from."""
    parts = []
    for item in shown:
        own = f"{item.id}/{item.place.digest}/{item.part.digest}"
        if isinstance(item, PictureItem):
            own += f"/{courses[item.id].key}/{item.course.picture.width_mm}/{item.course.picture.measured}"
        else:
            own += f"/{maps[item.id][0] if item.id in maps else item.made.digest}"
        parts.append(own)
    return hashlib.sha256("|".join(parts).encode()).hexdigest()


def _shape(
    shown: list[Item], courses: Mapping[str, CourseResult], maps: Mapping[str, Made], arrangement: Arrangement
) -> str:
    """What names the arrangement whatever its size: equal where all lines differ by one factor only."""
    if len(shown) == 1 and isinstance(shown[0], PictureItem):
        # A make of one picture has no sizes but its own.
        place, part = shown[0].place, shown[0].part
        return hashlib.sha256(f"{courses[shown[0].id].shape}/{courses[shown[0].id].picture.measured}/{place.turn_deg}/"
                              f"{place.mirrored}/{place.stretch}/{part.digest}".encode()).hexdigest()
    return _taken(shown, courses, maps)


def _laid(
    item: Item, courses: Mapping[str, CourseResult], maps: Mapping[str, Made], strokes: Mapping[str, Strokes]
) -> arrange.Laid:
    if not isinstance(item, PictureItem):
        planar = maps[item.id][1]
        seen = isinstance(item, LiftedItem | LinesItem) and planar.chain_count > 0
        glance = _glance_of_lifted(planar) if seen else Glance.plain()
        return arrange.Laid(item.id, planar, "artwork", None, item.place, item.part, glance, box=_circle(item, planar),
                            strokes=strokes.get(item.id, ()))
    course = courses[item.id]
    pieces, picture = course.pieces, course.picture
    return arrange.Laid(item.id, pieces.planar, picture.measured, picture.width_mm, item.place, item.part, _glance(course),
                        box=pieces.box, strokes=course.lines.used)


def _glance(course: CourseResult) -> Glance:
    """The labels of a picture's pieces from afar; those of its pixels where no piece has changed."""
    planar, picture = course.pieces.planar, course.picture
    labels = course.label_map.labels
    if course.lines.strokes or len(course.pieces.gone) or len(planar.palette.colours) > len(course.label_map.palette.colours):
        labels = painted(planar, GLANCE_PX)
    return Glance.of(labels, picture.places.scaled(labels.shape[1] / picture.width))


def _glance_of_lifted(planar: PlanarMap) -> Glance:
    middle = np.array([planar.width / 2, planar.height / 2])
    labels = painted(replace(planar, segments=planar.segments + middle), GLANCE_PX)
    return Glance(labels, Placement.plain(labels.shape[1]))


def _circle(item: Item, planar: PlanarMap) -> arrange.Box | None:
    """Words on a circle are placed by the circle, about 0, 0, so that they lie about what else does."""
    if not (isinstance(item, LetteringItem) and item.made.along == "circle"):
        return None
    reach = float(np.hypot(planar.segments[:, 0, 0], planar.segments[:, 0, 1]).max())
    return -reach, -reach, reach, reach
