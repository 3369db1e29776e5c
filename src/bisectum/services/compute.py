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

from bisectum.core.course import CourseResult, CourseSettings, Source, run_course
from bisectum.core.model.artwork import Artwork
from bisectum.core.progress import Progress
from bisectum.services.decode import PictureInfo, decode
from bisectum.services.report import Note, warnings_of

THUMBNAIL_PX = 320
MOST_RESULTS = 80
MOST_PICTURES = 3


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
    """Everything the screen needs of a course's result. images: PNG bytes of the states that are rasters."""

    artwork: Artwork
    facts: dict[str, Any]
    notes: tuple[Note, ...]
    images: dict[str, bytes]


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
    return Outcome(result.artwork, _facts(result, info), tuple(warnings_of(result, info)), _images(result, preview))


def picture_png(path: Path, most_px: int, progress: Progress) -> bytes:
    """The decoded picture for the stage, reduced to `most_px` pixels."""
    from bisectum.core.raster.resample import reduce_to

    source, _ = _source(path)
    return _png(Image.fromarray(reduce_to(source.rgba, most_px)[0], "RGBA"))


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
        },
        "background": {
            "kind": ground.kind, "share": ground.share, "reach": 100 * ground.reach, "colour": list(ground.rgb),
            "enclosed": [[spot.x, spot.y, spot.area_px] for spot in ground.enclosed[:50]],
        },
        "colours": {
            "method": result.label_map.palette.method, "found": result.label_map.palette.found,
            "absorbed": result.label_map.absorbed,
            "palette": [{"key": c.key, "name": name, "share": c.share, "small": c.small} for c, name in zip(
                result.label_map.palette.colours, result.label_map.palette.names(), strict=True)],
        },
        "lines": {
            "segments": len(planar.segments), "straight": int(planar.straight.sum()), "deviation_mm": planar.deviation,
            "cut_length_mm": artwork.cut_length, "repaired": planar.repaired,
            "left_out": list(planar.left_out),
        },
    }


def _reduction(result: CourseResult) -> float:
    """Pixels of the file along one pixel of the label map."""
    return result.picture.reduction * result.picture.width / result.label_map.labels.shape[1]


def _images(result: CourseResult, preview: bool) -> dict[str, bytes]:
    labels = result.label_map.labels
    palette = [(0, 0, 0), *(colour.rgb for colour in result.label_map.palette.colours)]
    images = {
        "background": _png(_indexed(result.ground.mask.astype(np.uint8), [(0, 0, 0), (255, 255, 255)])),
        "colours": _png(_indexed(labels, palette)),
    }
    if not preview:
        images["thumbnail"] = _thumbnail(labels, palette)
    return images


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
