"""Bytes of a picture file to pixels: sRGB with straight alpha, the right way up, and its natural size.

The kind of file is told by its content, never by its name.
"""

from __future__ import annotations

import hashlib
import io
import math
import warnings
from dataclasses import dataclass
from typing import Any

import numpy as np
import pi_heif
from numpy.typing import NDArray
from PIL import Image, ImageCms, ImageOps

from bisectum.core.course import Source
from bisectum.core.errors import PictureError
from bisectum.core.units import DEFAULT_DPI, MM_PER_INCH

MOST_BYTES = 64 * 1024 * 1024
MOST_PIXELS = 100_000_000
WORKING_PX = 26_000_000  # A4 at 500 dpi; more is averaged, since no cutter is finer than that
STRIP = 256  # rows
FORMATS = ("PNG", "JPEG", "HEIF", "WEBP", "GIF", "BMP", "TIFF", "AVIF")
SIGNATURES = (b"\x89PNG\r\n", b"\xff\xd8\xff", b"GIF8", b"II*\0", b"MM\0*")
# The brands of a picture in a container of ISO/IEC 14496-12, as ISO/IEC 23008-12 names them; AVIF's own are beside them.
BRANDS = (b"heic", b"heix", b"heim", b"heis", b"mif1", b"mif2", b"msf1", b"avif", b"avis")
LOWEST_DPI, HIGHEST_DPI = 10.0, 5000.0

# A phone's file may hold depth, a small copy and parts that move beside its picture; none of them is read.
pi_heif.register_heif_opener(thumbnails=False, depth_images=False, aux_images=False)


@dataclass(frozen=True, slots=True)
class PictureInfo:
    """What the file says of itself. frames: more than 1 for an animation, of which the first is used. reduced: how many of its
    pixels along a side became one, since more would only cost memory."""

    format: str
    width: int
    height: int
    dpi: float | None
    frames: int
    reduced: int = 1


def decode(data: bytes) -> tuple[Source, PictureInfo]:
    """Decode a picture. Raises: PictureError with a sentence that says what is wrong and what to do."""
    image, info = _opened(data)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            if info.frames > 1:
                image.seek(0)
            reduced = max(1, math.ceil(math.sqrt(image.width * image.height / WORKING_PX)))
            image = _smaller(image, reduced)
            upright = ImageOps.exif_transpose(image)
            rgba = _rgba(upright if upright is not None else image)
    except MemoryError:
        raise
    except Exception as error:  # decoders raise whatever comes to their mind when a file is broken
        raise _damaged() from error
    _refuse_blank(rgba)
    info = PictureInfo(info.format, rgba.shape[1] * reduced, rgba.shape[0] * reduced, info.dpi, info.frames, reduced)
    return Source(rgba, reduced * MM_PER_INCH / (info.dpi or DEFAULT_DPI), hashlib.sha256(data).hexdigest()), info


def _smaller(image: Image.Image, reduced: int) -> Image.Image:
    """The picture read, and averaged over blocks of so many pixels along a side."""
    if reduced == 1:
        image.load()
        return image
    exif, info = image.getexif(), image.info
    image.draft("RGB", (image.width // reduced, image.height // reduced))  # a JPEG is read smaller in the first place
    image.load()
    if image.mode.startswith("I;16"):
        image = Image.fromarray(_eight_bits(image), "L")
    elif image.mode in ("P", "PA", "1"):
        image = image.convert("RGBA" if "transparency" in info or image.mode == "PA" else "RGB")
    left = math.ceil(math.sqrt(image.width * image.height / WORKING_PX))
    result = image.reduce(left) if left > 1 else image
    result.info = info
    result.getexif().update(exif)
    return result


def _refuse_blank(rgba: NDArray[np.uint8]) -> None:
    """Raises: PictureError where there is nothing in the picture that could be cut."""
    if not rgba[..., 3].any():
        raise PictureError("This picture is fully transparent, so there is nothing in it to cut. Choose another one.",
                           code="picture_transparent")
    if min(rgba.shape[:2]) < 2:
        raise PictureError("This picture is a single row of pixels or less, so there is no shape in it. Choose a larger one.",
                           code="picture_tiny")
    if (rgba == rgba[0, 0]).all():
        raise PictureError("This picture is all one colour, so there is no shape in it to cut. Choose another one.",
                           code="picture_blank")


def _opened(data: bytes) -> tuple[Image.Image, PictureInfo]:
    if not data:
        raise PictureError("This file is empty. Choose the picture again.", code="picture_empty")
    if len(data) > MOST_BYTES:
        raise PictureError(f"This file has more than {MOST_BYTES // 2**20} MB, which is the most that can be taken. Save it "
                           "smaller, then bring it in.", code="picture_too_heavy", most=MOST_BYTES // 2**20)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            image = Image.open(io.BytesIO(data), formats=FORMATS)
    except Image.DecompressionBombError as error:
        raise _too_large(0, 0) from error
    except Exception as error:  # as above
        if data.startswith(SIGNATURES) or (data[4:8] == b"ftyp" and data[8:12] in BRANDS):
            raise _damaged() from error
        raise PictureError("This is no picture that can be read here. Bring a PNG, JPEG, HEIC, WebP, GIF, BMP, TIFF or "
                           "AVIF file.",
                           code="picture_unknown") from error
    width, height = image.size
    if width * height > MOST_PIXELS:
        raise _too_large(width, height)
    # What else a HEIF file holds is no animation; the picture it opens with is the one it is meant to show.
    frames = 1 if image.format == "HEIF" else int(getattr(image, "n_frames", 1))
    return image, PictureInfo(image.format or "", width, height, _dpi(image), frames)


def _damaged() -> PictureError:
    return PictureError("This picture is damaged or cut off, so it cannot be read. Save or download it again, then bring it in.",
                        code="picture_damaged")


def _too_large(width: int, height: int) -> PictureError:
    size = f" ({width} × {height})" if width else ""
    return PictureError(f"This picture has more than {MOST_PIXELS // 10**6} million pixels{size}. Make it smaller, then bring "
                        "it in.", code="picture_too_large", width=width, height=height)


def _dpi(image: Image.Image) -> float | None:
    value: Any = image.info.get("dpi")
    try:
        dpi = float(value[0])
    except (TypeError, ValueError, IndexError, ZeroDivisionError):
        return None
    # Cameras write 72 without meaning it, and some programs write 0 or 1.
    return dpi if LOWEST_DPI <= dpi <= HIGHEST_DPI and round(dpi) != 72 else None


def _rgba(image: Image.Image) -> NDArray[np.uint8]:
    """(H, W, 4) uint8, sRGB, straight alpha."""
    if image.mode in ("I;16", "I;16B", "I;16L", "I", "F"):
        image = Image.fromarray(_eight_bits(image), "L")
    if "transparency" in image.info and image.mode in ("P", "L", "RGB", "1"):
        image = image.convert("RGBA")
    elif image.mode in ("P", "PA", "1", "La", "RGBa"):
        image = image.convert("RGBA" if image.mode in ("PA", "RGBa") else "RGB")
    alpha = image.getchannel("A") if "A" in image.getbands() else None
    solid = _in_srgb(image)
    if alpha is not None:
        solid.putalpha(alpha)
    return np.asarray(solid.convert("RGBA"))


def _eight_bits(image: Image.Image) -> NDArray[np.uint8]:
    """A grey picture of 16 or 32 bits as (H, W) uint8."""
    deep = np.asarray(image)
    top = 65535.0 if image.mode != "F" else max(1.0, float(deep.max()))
    result = np.empty(deep.shape, np.uint8)
    for start in range(0, len(deep), STRIP):  # not all at once: floats take eight times the room
        strip = deep[start : start + STRIP].astype(np.float64)
        result[start : start + STRIP] = np.clip(np.round(strip * (255.0 / top)), 0, 255)
    return result


def _in_srgb(image: Image.Image) -> Image.Image:
    """The colours by their own profile in sRGB; without one, or with a broken one, as they are."""
    profile = image.info.get("icc_profile")
    if image.mode in ("RGBA", "LA", "LAB"):
        image = image.convert("RGB" if image.mode != "LA" else "L")
    if profile and image.mode in ("RGB", "L", "CMYK"):
        try:
            source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            converted = ImageCms.profileToProfile(image, source, ImageCms.createProfile("sRGB"), outputMode="RGB")
            if converted is not None:
                return converted
        except (ImageCms.PyCMSError, OSError, ValueError):
            pass
    return image.convert("RGB")
