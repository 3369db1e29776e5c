"""A picture file to a PNG without its background."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image

from bisectum.core.course import CourseSettings
from bisectum.core.steps.background.step import cleared_picture, find_background
from bisectum.core.steps.picture.step import prepare_picture
from bisectum.services.decode import decode


def cleared_png(data: bytes, settings: CourseSettings) -> bytes:
    """Raises: PictureError, SettingsError."""
    source, info = decode(data)
    picture = prepare_picture(source.rgba, source.natural_mm_per_px, settings.picture)
    ground = find_background(picture, settings.background)
    buffer = io.BytesIO()
    dpi = {"dpi": (info.dpi, info.dpi)} if info.dpi else {}
    Image.fromarray(np.ascontiguousarray(cleared_picture(picture, ground)), "RGBA").save(buffer, "PNG", **dpi)
    return buffer.getvalue()
