"""The make: the courses of all items of a job, and the steps that concern them together.

    item: picture → background → colours → lines ─┐
    item: picture → background → colours → lines ─┴ arrange → layers

All results go into one cache by content, so two items that do not change cost nothing when a third one does.
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass

from bisectum.core.cache import Cache, Memory, Run
from bisectum.core.course import CourseResult, Source, run_course
from bisectum.core.job import JobDocument, PictureItem
from bisectum.core.model.arrangement import Arrangement, Glance
from bisectum.core.model.artwork import Artwork
from bisectum.core.progress import SILENT, Part, Progress
from bisectum.core.steps.arrange import step as arrange
from bisectum.core.steps.layers import step as layers

OF_ITEMS = 0.9  # of the whole progress


@dataclass(frozen=True, slots=True)
class MakeResult:
    """What a job gives. courses: of each item, by its id; fresh: the steps that had to be worked out anew, those of items as
    (item, step), those of the make as ("", step)."""

    courses: dict[str, CourseResult]
    arrangement: Arrangement
    artwork: Artwork
    key: str
    fresh: tuple[tuple[str, str], ...]


def run_make(
    sources: Mapping[str, Source], document: JobDocument, cache: Cache, progress: Progress = SILENT, most_px: int | None = None,
    treated_px: int | None = None,
) -> MakeResult:
    """Run the courses of all items and the steps after them.

    sources: decoded pictures by the digest of their file. most_px: work on pictures reduced to so many pixels; treated_px:
    see run_course.
    Raises: SettingsError when nothing is left to cut, or items lie on each other; Cancelled.
    """
    courses: dict[str, CourseResult] = {}
    share = OF_ITEMS / len(document.items)
    for number, item in enumerate(document.items):
        part = Part(progress, number * share, (number + 1) * share)
        courses[item.id] = run_course(sources[item.source], item.course, cache, part, most_px, treated_px)
    run = Run(cache, progress)
    placed = [(item, courses[item.id]) for item in document.items]
    key, arrangement = run.step(
        "arrange", arrange.VERSION, document.make.arrange.digest, _taken(placed), (OF_ITEMS, OF_ITEMS + 0.02),
        lambda _: arrange.arrange([_laid(item, course) for item, course in placed], document.make.arrange))
    shape = _shape(placed, arrangement)
    key, artwork = run.step(
        "layers", layers.VERSION, document.make.layers.digest, key, (OF_ITEMS + 0.02, 1.0),
        lambda part: layers.build_layers(arrangement, document.make.layers, part, Memory(cache, shape)))
    fresh = [(item, step) for item, course in courses.items() for step in course.fresh] + [("", step) for step in run.fresh]
    return MakeResult(courses, arrangement, artwork, key, tuple(fresh))


def _taken(placed: list[tuple[PictureItem, CourseResult]]) -> str:
    """What names all that the arrangement is made from."""
    parts = [f"{item.id}/{course.key}/{item.place.digest}/{item.part.digest}/{item.course.picture.width_mm}/"
             f"{item.course.picture.measured}" for item, course in placed]
    return hashlib.sha256("|".join(parts).encode()).hexdigest()


def _shape(placed: list[tuple[PictureItem, CourseResult]], arrangement: Arrangement) -> str:
    """What names the arrangement whatever its size: equal where all lines differ by one factor only."""
    parts = [course.shape for _, course in placed]
    # A make of one item has no sizes but its own; those of several are told apart by where they lie, as shares of the page.
    frames = arrangement.frames if len(placed) > 1 else ()
    parts += [f"{(frame.matrix / arrangement.width).tolist()}" for frame in frames]
    parts += [course.picture.measured for _, course in placed]
    return hashlib.sha256("|".join(parts).encode()).hexdigest()


def _laid(item: PictureItem, course: CourseResult) -> arrange.Laid:
    labels, picture = course.label_map.labels, course.picture
    places = picture.places.scaled(labels.shape[1] / picture.width)
    return arrange.Laid(item.id, course.planar_map, picture.measured, picture.width_mm, item.place, Glance.of(labels, places))
