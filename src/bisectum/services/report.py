"""What the person should know about a result, as findings; the wording is the interface's."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.course import CourseResult
from bisectum.core.items.thin import thin_share
from bisectum.core.make import MakeResult
from bisectum.core.model.finding import Finding
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.work import work_of
from bisectum.core.raster.din99o import lab_image
from bisectum.core.raster.resample import reduce_to, reduced_mask
from bisectum.core.raster.sharpness import edge_blur
from bisectum.core.steps.check.of_make import flaw_of_work
from bisectum.services.decode import PictureInfo

THINNEST_MM, MUCH_THIN = 0.8, 0.08  # strokes under this are hard to weed in vinyl; common practice, no source. Share of the area
MEASURED_PX = 600_000
BLURRED_MM = 1.0  # deviation of the sharpest edges' blur: twice what fine lines are apart
FLAT_LIGHT = 25.0  # L* between the darkest and the lightest parts
LIKE_GROUND, RING_PX = 6.0, 4  # L* between both sides of most of the outline; px looked at beside it
FEWEST_PX_PER_MM = 2.5  # under this, edges get soft at the finished size; common practice, no source


def findings_of_item(item: str, course: CourseResult, info: PictureInfo) -> list[Finding]:
    """What is worth knowing of one picture."""
    found: list[Finding] = list(course.pieces.findings)
    if info.frames > 1:
        found.append(Finding("animation", details={"frames": info.frames}))
    if info.reduced > 1:
        found.append(Finding("reduced", details={"times": info.reduced}))
    if course.ground.kind == "not_plain":
        found.append(Finding("background_kept", repair="open_background"))
    left = sum(not spot.taken for spot in course.ground.enclosed)
    if left:
        found.append(Finding("enclosed_background", repair="open_background", details={"count": left}))
    if course.ground.outside:
        found.append(Finding("touches_outside", "warning", details={"count": course.ground.outside}))
    per_mm = 1.0 / course.label_map.mm_per_px * course.picture.reduction * info.reduced
    if per_mm < FEWEST_PX_PER_MM:
        found.append(Finding("few_pixels", "warning", value=round(per_mm, 1), limit=FEWEST_PX_PER_MM,
                             details={"per_mm": round(per_mm, 1)}))
    if course.label_map.palette.method == "tones":
        found += _of_photograph(course)
    found += course.label_map.findings
    found += course.lines.findings
    if course.lines.missed:
        found.append(Finding("strokes_missed", "warning", details={"count": len(course.lines.missed)}))
    if course.planar_map.left_out:
        found.append(Finding("corrections_left_out", "warning", details={"count": len(course.planar_map.left_out)}))
    return [replace(finding, item=item) for finding in found]


def findings_of_make(result: MakeResult, evening_min: float, preview: bool = False) -> list[Finding]:
    """What is worth knowing of the make, and of items that are no pictures. evening_min: how long cutting and weeding may take;
    preview: what takes long is left out."""
    much = [replace(flaw.finding, repair="open_try_outs") for flaw in flaw_of_work(work_of(result.artwork), evening_min)]
    lacking = [Finding("characters_missing", "warning", item=item, details={"characters": characters})
               for item, characters in result.missing.items()]
    return [*much, *lacking, *([] if preview else _thin(result)), *result.artwork.findings]


def _thin(result: MakeResult) -> list[Finding]:
    """Lettering with strokes that are hard to cut and weed."""
    found = []
    for item, planar in result.maps.items():
        if item.startswith("lettering-"):
            share = _thin_share(Shared(planar))
            if share > MUCH_THIN:
                found.append(Finding("thin_lettering", "warning", item=item, value=round(share, 2), limit=MUCH_THIN,
                                     details={"mm": THINNEST_MM, "percent": round(100 * share)}))
    return found


@dataclass(frozen=True, eq=False)
class Shared:
    """A map that equals any other with the same lines."""

    planar: PlanarMap

    def __hash__(self) -> int:
        return hash(self.planar.segments.tobytes())

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Shared) and np.array_equal(self.planar.segments, other.planar.segments)


@lru_cache(maxsize=64)
def _thin_share(shared: Shared) -> float:
    return thin_share(shared.planar, THINNEST_MM)


def _of_photograph(course: CourseResult) -> list[Finding]:
    """What makes a photograph hard to cut, before somebody has put work into it."""
    picture, ground = course.picture, course.ground
    small, times = reduce_to(picture.rgba, MEASURED_PX)
    light = np.ascontiguousarray(lab_image(np.ascontiguousarray(small[..., :3]))[..., 0])
    found = []
    mm_per_px = course.label_map.mm_per_px * course.label_map.labels.shape[1] / small.shape[1]
    blur = edge_blur(light)
    if blur is not None and blur * mm_per_px > BLURRED_MM:
        found.append(Finding("blurred", "warning", value=round(blur * mm_per_px, 1), limit=BLURRED_MM,
                             details={"mm": round(blur * mm_per_px, 1)}))
    mask = reduced_mask(ground.mask, small.shape[0], small.shape[1], int(times))
    own = light[~mask] if not mask.all() else light.ravel()
    span = float(np.subtract(*np.quantile(own, (0.95, 0.05))))
    if span < FLAT_LIGHT:
        found.append(Finding("flat_light", "warning", value=round(span), limit=FLAT_LIGHT, repair="open_picture"))
    if ground.cleared is not None and mask.any() and not mask.all():
        apart = _apart(light, mask)
        if apart is not None and apart < LIKE_GROUND:
            found.append(Finding("like_ground", "warning", value=round(apart, 1), limit=LIKE_GROUND, repair="open_background"))
    return found


def _apart(light: NDArray[np.float32], mask: NDArray[np.bool_]) -> float | None:
    """How much the light of a subject and its ground differ along most of the outline, L*. light, mask : (H, W)."""
    near = np.ones((2 * RING_PX + 1, 2 * RING_PX + 1), np.uint8)
    inside, outside = (~mask).astype(np.float32), mask.astype(np.float32)
    outline = (cv2.dilate(outside, np.ones((3, 3), np.uint8)) > 0) & ~mask
    if not outline.any():
        return None
    size = near.shape
    means = [cv2.blur(light * part, size) / np.maximum(cv2.blur(part, size), 1e-6) for part in (inside, outside)]
    return float(np.median(np.abs(means[0] - means[1])[outline]))
