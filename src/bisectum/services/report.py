"""What the person should know about a result, as codes with values; the wording is the interface's."""

from __future__ import annotations

from bisectum.core.course import CourseResult
from bisectum.services.decode import PictureInfo

FEWEST_PX_PER_MM = 2.5  # under this, edges get soft at the finished size; common practice, no source


Note = tuple[str, dict[str, object]]


def warnings_of(result: CourseResult, info: PictureInfo) -> list[Note]:
    notes: list[Note] = []
    if info.frames > 1:
        notes.append(("animation", {"frames": info.frames}))
    if result.ground.kind == "not_plain":
        notes.append(("background_kept", {}))
    left = sum(not spot.taken for spot in result.ground.enclosed)
    if left:
        notes.append(("enclosed_background", {"count": left}))
    if result.ground.outside:
        notes.append(("touches_outside", {"count": result.ground.outside}))
    per_mm = 1.0 / result.label_map.mm_per_px * result.picture.reduction
    if per_mm < FEWEST_PX_PER_MM:
        notes.append(("few_pixels", {"per_mm": round(per_mm, 1)}))
    notes += result.label_map.notes
    if result.artwork.too_fine:
        notes.append(("too_fine", {"count": result.artwork.too_fine}))
    if result.planar_map.left_out:
        notes.append(("corrections_left_out", {"count": len(result.planar_map.left_out)}))
    return notes
