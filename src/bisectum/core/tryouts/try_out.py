"""One try-out: a treatment of a picture as a real small result, with how like it is and how much work it makes."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.cache import Cache
from bisectum.core.course import PREVIEW_PX, CourseResult, CourseSettings, Source, run_course
from bisectum.core.job import JobDocument, MakeSettings, new_document
from bisectum.core.make import run_make
from bisectum.core.model.artwork import Artwork
from bisectum.core.model.work import Work, work_of
from bisectum.core.progress import SILENT, Progress
from bisectum.core.steps.colours.photo.faces import find_faces
from bisectum.core.steps.colours.step import look_at
from bisectum.core.tryouts.likeness import likeness
from bisectum.core.tryouts.recipes import Recipe, Why, around, for_drawing, for_photograph

TRIED_PX = 90_000  # pixels a photograph is treated at
CLOTH, FALLEN_OUT = (255, 255, 255), (30, 30, 30)  # what shows where nothing is cut; through a stencil one sees dark


@dataclass(frozen=True, slots=True)
class TryOut:
    """artwork: of the picture alone, at its real size; frame: left, top, width and height of the picture on its page, mm;
    likeness: 0 to 100."""

    artwork: Artwork
    frame: tuple[float, float, float, float]
    likeness: float
    work: Work


def recipes_of(
    source: Source, course: CourseSettings, cache: Cache, like_this: bool, progress: Progress = SILENT
) -> tuple[Recipe, ...]:
    """What is worth trying on a picture. like_this: variants of the course as it is. Raises: SettingsError, Cancelled."""
    if like_this:
        return around(course)
    plain = course.changed("colours", {"kind": "auto", "count": None})
    found = run_course(source, plain, cache, progress, PREVIEW_PX, until="background")
    look = look_at(found.picture.without(found.ground.cleared), found.ground, plain.colours)
    if look.is_photograph:
        return for_photograph(_what_it_shows(found))
    labels = run_course(source, plain, cache, progress, PREVIEW_PX, until="colours").label_map
    return for_drawing(len(look.modes), any(finding.code == "speckled" for finding in labels.findings))


def _what_it_shows(course: CourseResult) -> Why:
    if find_faces(course.picture.rgba):
        return "faces"
    return "subject" if course.ground.mask.any() or course.ground.cutouts else "scene"


def try_out(source: Source, course: CourseSettings, cache: Cache, progress: Progress = SILENT) -> TryOut:
    """Raises: SettingsError when nothing is left to cut; Cancelled."""
    result = run_make({source.digest: source}, _document(source, course), cache, progress, PREVIEW_PX, TRIED_PX)
    ((item, own),) = result.courses.items()
    matrix, planar = result.arrangement.frame(item).matrix, own.planar_map
    scale, left, top = (float(value) for value in (matrix[0, 0], matrix[0, 2], matrix[1, 2]))
    frame = left, top, planar.width * scale, planar.height * scale
    return TryOut(result.artwork, frame, _likeness(own, course.colours.treatment == "stencil"), work_of(result.artwork))


def _document(source: Source, course: CourseSettings) -> JobDocument:
    return new_document(source.digest, "", "try-out", course, MakeSettings())


def _likeness(course: CourseResult, is_stencil: bool) -> float:
    """Of the labels: lines stray from them by a tenth of a millimetre, which is not seen."""
    labels, ground = course.label_map.labels, course.ground
    shape = labels.shape[1], labels.shape[0]
    cut = [colour.rgb for colour in course.label_map.palette.colours]
    cut = [CLOTH, *cut[1:]] if is_stencil else cut
    colours = np.array([FALLEN_OUT if is_stencil else CLOTH, *cut], np.uint8)
    shown = _resized((~ground.mask).astype(np.uint8), shape) > 0
    picture = _resized(np.ascontiguousarray(course.picture.rgba[..., :3]), shape)
    return likeness(picture, colours[labels], shown, course.label_map.mm_per_px)


def _resized(image: NDArray[np.uint8], shape: tuple[int, int]) -> NDArray[np.uint8]:
    how = cv2.INTER_AREA if image.shape[1] > shape[0] else cv2.INTER_CUBIC
    return np.asarray(cv2.resize(image, shape, interpolation=how), np.uint8)
