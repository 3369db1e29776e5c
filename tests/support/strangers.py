"""Pictures that nobody made for Bisectum: photographs, textures and scans that come with scikit-image and scikit-learn,
icons of an open set (Flat Color Icons, MIT, from npm), and patterns made by formula.

Every third one by name is kept for the end: it is not to be looked at while anything is tuned.
"""

from __future__ import annotations

import io
import json
import re
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import resvg_py
from numpy.typing import NDArray
from PIL import Image

ICONS = Path(__file__).resolve().parents[2] / "web/node_modules/@iconify-json/flat-color-icons/icons.json"
SKIMAGE = ("astronaut", "brick", "camera", "cell", "chelsea", "chessboard_GRAY", "chessboard_RGB", "clock_motion", "coffee",
           "coins", "color", "grass", "gravel", "horse", "hubble_deep_field", "ihc", "logo", "microaneurysms", "moon",
           "motorcycle_left", "page", "phantom", "retina", "rocket", "text")
SKLEARN = ("china", "flower")
RGB = NDArray[np.uint8]


@dataclass(frozen=True)
class Stranger:
    """name; kept: whether it is not to be tuned to; load: gives (H, W, 4) uint8, straight alpha."""

    name: str
    load: Callable[[], RGB]

    @property
    def kept(self) -> bool:
        return zlib.crc32(self.name.encode()) % 3 == 0


def strangers(icons: int = 12) -> Iterator[Stranger]:
    yield from (Stranger(name, lambda name=name: shipped(name)) for name in (*SKIMAGE, *SKLEARN))  # type: ignore[misc]
    yield from (Stranger(name, lambda make=make: rgba_of(make())) for name, make in PATTERNS.items())  # type: ignore[misc]
    yield from (Stranger(f"icon {name}", lambda body=body: icon_picture(body)) for name, body in icon_bodies(icons))  # type: ignore[misc]


def rgba_of(pixels: NDArray) -> RGB:
    if pixels.dtype == bool:
        pixels = 255 * pixels.astype(np.uint8)
    return np.asarray(Image.fromarray(pixels).convert("RGBA"))


def shipped(name: str) -> RGB:
    """A picture file of a package, found beside its code."""
    import skimage
    import sklearn

    folders = Path(skimage.__file__).parent / "data", Path(sklearn.__file__).parent / "datasets/images"
    path = next(path for folder in folders for path in folder.glob(f"{name}.*") if path.suffix in (".png", ".jpg"))
    return np.asarray(Image.open(path).convert("RGBA"))


def icon_bodies(count: int) -> list[tuple[str, str]]:
    """So many icons of the set, evenly spread: name and paths."""
    found = [(name, icon["body"]) for name, icon in json.loads(ICONS.read_text())["icons"].items()
             if "logo" not in name and not re.search("radient|currentColor", icon["body"])]
    return found[:: max(1, len(found) // count)][:count]


def icon_svg(body: str, size: int) -> str:
    """An icon on white paper of so many px."""
    return (f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 48 48" width="{size}" height="{size}">'
            f'<path fill="#fff" d="M0 0h48v48H0z"/>{body}</svg>')


def icon_picture(body: str, size: int = 360) -> RGB:
    return np.asarray(Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=icon_svg(body, size))))).convert("RGBA"))


def _grid(height: int = 420, width: int = 500) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    y, x = np.mgrid[0:height, 0:width]
    return x.astype(float), y.astype(float)


def _noise() -> RGB:
    return np.random.default_rng(1).integers(0, 256, (130, 150, 3), dtype=np.uint8)


def _soft_noise() -> RGB:
    image = Image.fromarray(np.random.default_rng(2).integers(0, 256, (30, 36, 3), dtype=np.uint8))
    return np.asarray(image.resize((500, 420), Image.Resampling.BICUBIC))


def _gradient() -> RGB:
    x, y = _grid()
    return np.stack([x / 2, y / 2, 255 - x / 4], axis=-1).astype(np.uint8)


def _steps() -> RGB:
    x, _ = _grid()
    return np.repeat((x // 25 * 12).astype(np.uint8)[..., None], 3, axis=2)


def _checker(cell: int) -> RGB:
    x, y = _grid(240, 240)
    return np.repeat((255 * ((x // cell + y // cell) % 2)).astype(np.uint8)[..., None], 3, axis=2)


def _waves() -> RGB:
    x, y = _grid()
    away = np.hypot(x - 240, y - 200)
    return np.stack([127 + 127 * np.sin(away * away / 900), 127 + 127 * np.sin(away / 9), 127 + 127 * np.cos(x / 14)],
                    axis=-1).astype(np.uint8)


def _escape() -> RGB:
    """How soon z² + c escapes."""
    x, y = _grid()
    c = (x - 330) / 170 + 1j * (y - 210) / 170
    z, count = np.zeros_like(c), np.zeros(c.shape)
    for _ in range(40):
        inside = np.abs(z) < 2
        z[inside] = z[inside] ** 2 + c[inside]
        count += inside
    return np.stack([count * 6, (count * 29) % 256, 255 - count * 5], axis=-1).astype(np.uint8)


def _carpet() -> RGB:
    x, y = _grid(243, 243)
    hole = np.zeros(x.shape, bool)
    for power in range(5):
        hole |= ((x // 3**power) % 3 == 1) & ((y // 3**power) % 3 == 1)
    return np.where(hole[..., None], [250, 240, 220], [40, 70, 110]).astype(np.uint8)


def _snowflakes() -> RGB:
    x, y = _grid()
    angle, away = np.arctan2(y - 210, x - 250), np.hypot(x - 250, y - 210)
    return np.where((away < 150 + 40 * np.cos(18 * angle))[..., None], [30, 90, 160], [255, 255, 255]).astype(np.uint8)


PATTERNS: dict[str, Callable[[], RGB]] = {
    "noise": _noise, "soft noise": _soft_noise, "gradient": _gradient, "grey steps": _steps, "checker 1": lambda: _checker(1),
    "checker 7": lambda: _checker(7), "waves": _waves, "escape": _escape, "carpet": _carpet, "snowflakes": _snowflakes,
}


def cropped(rgba: RGB, rng: np.random.Generator) -> RGB:
    """A part of a picture, of at least a third of its sides."""
    height, width = rgba.shape[:2]
    h, w = (int(size * rng.uniform(0.34, 0.9)) for size in (height, width))
    y, x = int(rng.integers(0, height - h + 1)), int(rng.integers(0, width - w + 1))
    return np.ascontiguousarray(rgba[y : y + h, x : x + w])


def resized(rgba: RGB, pixels: int) -> RGB:
    """The picture with about so many pixels."""
    height, width = rgba.shape[:2]
    scale = (pixels / (height * width)) ** 0.5
    size = max(8, round(width * scale)), max(8, round(height * scale))
    return np.asarray(Image.fromarray(rgba).resize(size, Image.Resampling.LANCZOS))


def compressed(rgba: RGB, quality: int = 85) -> RGB:
    """As JPEG gives it back."""
    buffer = io.BytesIO()
    Image.fromarray(rgba).convert("RGB").save(buffer, "JPEG", quality=quality)
    return np.asarray(Image.open(buffer).convert("RGBA"))
