"""The networks that ship with Bisectum; each file is read when it is first needed."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from bisectum.core.raster.networks import NetworkName, provide

if TYPE_CHECKING:
    import cv2

FOLDER = Path(__file__).resolve().parents[1] / "networks"


def hand_in_networks() -> None:
    """Let the core of this process have them."""
    provide(_read)


def _read(name: NetworkName) -> cv2.dnn.Net:
    import cv2

    return cv2.dnn.readNetFromTFLite(str(FOLDER / f"{name}.tflite"))
