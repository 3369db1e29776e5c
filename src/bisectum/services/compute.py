"""What the computing processes do: run courses on kept pictures, and make what the screen shows of the results."""

from __future__ import annotations

import io
from collections import OrderedDict
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from bisectum.core.course import PREVIEW_PX, CourseResult, CourseSettings, Source, find_ground, run_course
from bisectum.core.errors import BrokenStructure
from bisectum.core.model.artwork import Artwork
from bisectum.core.model.ground import EnclosedSpot, Ground
from bisectum.core.model.palette import Palette
from bisectum.core.model.placement import Placement
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.colour import hex_of
from bisectum.core.raster.resample import reduce_to
from bisectum.core.steps.background.settings import Touch
from bisectum.core.steps.background.spot import spot_at
from bisectum.core.steps.colours.dropper import flat_colour
from bisectum.core.steps.picture.step import prepare_picture
from bisectum.services.decode import PictureInfo, decode
from bisectum.services.report import Note, warnings_of

THUMBNAIL_PX = 320
MOST_RESULTS = 80
MOST_PICTURES = 3
MOST_SPOTS = 100  # enclosed spots told one by one
STAGE_PX = 4_000_000  # the stage shows pictures of at most this many pixels


class Recent(OrderedDict[str, Any]):
    """Keeps the most recently used entries."""

    def __init__(self, most: int) -> None:
        super().__init__()
        self._most = most

    def __getitem__(self, key: str) -> Any:
        value = super().__getitem__(key)
        self.move_to_end(key)
        return value

    def __setitem__(self, key: str, value: Any) -> None:
        super().__setitem__(key, value)
        self.move_to_end(key)
        while len(self) > self._most:
            self.popitem(last=False)


_results = Recent(MOST_RESULTS)
_pictures = Recent(MOST_PICTURES)


@dataclass(frozen=True, slots=True)
class Outcome:
    """Everything the screen needs of a course's result. images: PNG bytes of the states that are rasters. placement: from
    shares of the width of the picture that came in to mm on the page, a matrix row by row. fault: what is broken, so that no
    file is made of it; a defect of ours. Previews are not looked at."""

    artwork: Artwork
    facts: dict[str, Any]
    notes: tuple[Note, ...]
    images: dict[str, bytes]
    placement: tuple[float, float, float, float, float, float]
    fault: str | None = None


def warm_up(progress: Progress) -> None:
    """Send a tiny drawing through the course when a process starts, so that nobody's first picture waits for kernels."""
    rgba = np.full((48, 48, 4), 255, np.uint8)
    rgba[8:40, 8:40, :3] = (40, 90, 140)
    rgba[16:24, 16:30, :3] = (200, 70, 50)
    result = run_course(Source(rgba, 1.0, "warm-up"), CourseSettings(), {}, progress)
    _images(result, preview=False)


def look_at(path: Path, progress: Progress) -> PictureInfo:
    """Decode a picture to see whether it can be used. Raises: PictureError."""
    return _source(path)[1]


def run(path: Path, settings: CourseSettings, preview: bool, progress: Progress) -> Outcome:
    """Run a course on a kept picture. Raises: PictureError, SettingsError, Cancelled."""
    source, info = _source(path)
    result = run_course(source, settings, _results, progress, preview)
    progress.raise_if_cancelled()
    return Outcome(result.artwork, _facts(result, info), tuple(warnings_of(result, info)), _images(result, preview),
                   _placement(result), None if preview else _fault(result))


def _fault(result: CourseResult) -> str | None:
    try:
        result.planar_map.check()
        result.artwork.check()
    except BrokenStructure as broken:
        return broken.message
    return None


def picture_png(path: Path, most_px: int, progress: Progress) -> bytes:
    """The decoded picture for the stage, reduced to `most_px` pixels."""
    source, _ = _source(path)
    return _png(Image.fromarray(reduce_to(source.rgba, most_px)[0], "RGBA"))


def spot_png(path: Path, settings: CourseSettings, touch: Touch, progress: Progress = SILENT) -> bytes:
    """What a click would take, on a picture of preview size, PNG. Raises: PictureError, SettingsError."""
    source, _ = _source(path)
    key = f"spot/{source.digest}/{settings.picture.digest()}"
    if key not in _results:
        _results[key] = prepare_picture(source.rgba, source.natural_mm_per_px, settings.picture, PREVIEW_PX)
    picture = _results[key]
    x, y = picture.places.to_px(np.array(touch.points))[0]
    area = spot_at(picture.rgba, x, y, touch.reach, touch.everywhere)
    if area is None:
        area = np.zeros(picture.rgba.shape[:2], bool)
    return _png(_indexed(area.astype(np.uint8), [(0, 0, 0), (255, 255, 255)]))


def ground_png(path: Path, settings: CourseSettings, progress: Progress = SILENT) -> bytes:
    """The ground on a picture of preview size, PNG. Raises: PictureError, SettingsError, Cancelled."""
    return _png(_ground_image(find_ground(_source(path)[0], settings, _results, progress)))


def dropper(path: Path, settings: CourseSettings, x: float, y: float, progress: Progress = SILENT) -> str | None:
    """The colour of the flat area at a place (shares of the picture's width), "#rrggbb". Raises: PictureError, SettingsError."""
    source, _ = _source(path)
    key = f"dropper/{source.digest}/{settings.picture.digest()}"
    if key not in _results:
        _results[key] = prepare_picture(source.rgba, source.natural_mm_per_px, settings.picture)
    picture = _results[key]
    at = picture.places.to_px(np.array([x, y]))[0]
    found = flat_colour(picture.rgba, float(at[0]), float(at[1]))
    return hex_of(found) if found is not None else None


def _source(path: Path) -> tuple[Source, PictureInfo]:
    if path.name not in _pictures:
        _pictures[path.name] = decode(path.read_bytes())
    return _pictures[path.name]


def _facts(result: CourseResult, info: PictureInfo) -> dict[str, Any]:
    """Values for the interface's sentences."""
    planar, artwork, ground = result.planar_map, result.artwork, result.ground
    return {
        "picture": {
            "format": info.format, "width_px": info.width, "height_px": info.height, "dpi": info.dpi,
            "mm_per_px": result.label_map.mm_per_px / _reduction(result),
            "image": result.picture_key if _has_own_image(result) else "",
        },
        "background": {
            "kind": ground.kind, "found": ground.found or ground.kind, "share": ground.share, "reach": 100 * ground.reach,
            "colour": list(ground.rgb), "runner_up": ground.runner_up, "outside": ground.outside,
            "has_shadow": ground.has_shadow,
            "enclosed": [_spot(spot, result) for spot in ground.enclosed[:MOST_SPOTS]],
        },
        "colours": {
            "method": result.label_map.palette.method, "found": result.label_map.palette.found,
            "absorbed": result.label_map.absorbed,
            "palette": _palette(result),
        },
        "lines": {
            "segments": len(planar.segments), "straight": int(planar.straight.sum()), "deviation_mm": planar.deviation,
            "cut_length_mm": artwork.cut_length, "repaired": planar.repaired,
            "left_out": list(planar.left_out),
        },
    }


def _palette(result: CourseResult) -> list[dict[str, Any]]:
    palette, shown = result.label_map.palette, shown_colours(result.label_map.palette)
    areas = np.bincount(result.planar_map.face_labels, minlength=len(palette.colours) + 1)
    return [
        {"key": colour.key, "name": name, "share": colour.share, "small": colour.small, "pinned": colour.pinned,
         "pieces": int(areas[number]), "shown": list(shown[number])}
        for number, (colour, name) in enumerate(zip(palette.colours, palette.names(), strict=True), 1)
    ]


def shown_colours(palette: Palette) -> list[tuple[int, int, int]]:
    """What each label is painted with on the stage, the ground first: its colour, or the next one that no other label has,
    so that the screen can tell two layers of one colour apart."""
    result: list[tuple[int, int, int]] = [(0, 0, 0)]
    for colour in palette.colours:
        red, green, blue = colour.rgb
        step = 1 if blue < 128 else -1
        while (red, green, blue) in result[1:]:
            blue += step
        result.append((red, green, blue))
    return result


def _placement(result: CourseResult) -> tuple[float, float, float, float, float, float]:
    artwork = result.artwork
    matrix = result.picture.places.matrix * (artwork.picture_width / result.picture.width)
    a, b, c, d, e, f = (float(value) for value in matrix.ravel())
    return a, b, c + artwork.picture_x, d, e, f + artwork.picture_y


def _spot(spot: EnclosedSpot, result: CourseResult) -> dict[str, Any]:
    """An enclosed spot, its places as shares of the width of the picture that came in."""
    left, top, right, bottom = spot.box
    places = result.picture.places.to_shares(np.array([(spot.x + 0.5, spot.y + 0.5), (left, top), (right, bottom)]))
    return {"at": places[0].tolist(), "corners": places[1:].tolist(), "area_px": spot.area_px, "likelihood": spot.likelihood,
            "taken": spot.taken}


def _has_own_image(result: CourseResult) -> bool:
    """Whether the picture worked on is another one than came in: turned, cropped, lit."""
    plain = Placement.plain(result.picture.width).matrix
    return result.relit or not np.array_equal(result.picture.places.matrix, plain)


def _reduction(result: CourseResult) -> float:
    """Pixels of the file along one pixel of the label map."""
    return result.picture.reduction * result.picture.width / result.label_map.labels.shape[1]


def _images(result: CourseResult, preview: bool) -> dict[str, bytes]:
    labels = result.label_map.labels
    palette = shown_colours(result.label_map.palette)
    images = {
        "background": _png(_ground_image(result.ground)),
        "colours": _png(_indexed(labels, palette)),
    }
    if _has_own_image(result):
        images["picture"] = _png(Image.fromarray(reduce_to(result.picture.rgba, STAGE_PX)[0], "RGBA"))
    if not preview:
        images["thumbnail"] = _thumbnail(labels, palette)
    return images


def _ground_image(ground: Ground) -> Image.Image:
    """White where the ground is, see-through elsewhere; half-way along a soft outline."""
    if ground.cleared is None:
        return _indexed(ground.mask.astype(np.uint8), [(0, 0, 0), (255, 255, 255)])
    gone = 255 - ground.cleared[..., 3]
    return Image.fromarray(np.dstack([np.full_like(gone, 255), gone]), "LA")


def _indexed(values: NDArray[np.uint8], palette: list[tuple[int, int, int]]) -> Image.Image:
    """A palette image whose first entry is see-through."""
    image = Image.fromarray(values, "P")
    image.putpalette(bytes(value for colour in palette for value in colour))
    image.info["transparency"] = 0
    return image


def _thumbnail(labels: NDArray[np.uint8], palette: list[tuple[int, int, int]]) -> bytes:
    every = max(1, max(labels.shape) // (4 * THUMBNAIL_PX))
    image = _indexed(np.ascontiguousarray(labels[::every, ::every]), palette).convert("RGBA")
    image.thumbnail((THUMBNAIL_PX, THUMBNAIL_PX), Image.Resampling.BOX, reducing_gap=None)
    return _png(image)


def _png(image: Image.Image) -> bytes:
    buffer = io.BytesIO()
    image.save(buffer, "PNG", compress_level=1)
    return buffer.getvalue()
