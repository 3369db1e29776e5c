"""What the person should know about a result, as findings; the wording is the interface's."""

from __future__ import annotations

from dataclasses import replace

from bisectum.core.course import CourseResult
from bisectum.core.make import MakeResult
from bisectum.core.model.finding import Finding
from bisectum.services.decode import PictureInfo

FEWEST_PX_PER_MM = 2.5  # under this, edges get soft at the finished size; common practice, no source


def findings_of_item(item: str, course: CourseResult, info: PictureInfo) -> list[Finding]:
    """What is worth knowing of one picture."""
    found: list[Finding] = []
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
    found += course.label_map.findings
    if course.planar_map.left_out:
        found.append(Finding("corrections_left_out", "warning", details={"count": len(course.planar_map.left_out)}))
    return [replace(finding, item=item) for finding in found]


def findings_of_make(result: MakeResult) -> list[Finding]:
    """What is worth knowing of the make as a whole."""
    return list(result.artwork.findings)
