"""One picture all the way to a file: what is wrong with the result, if anything."""

from __future__ import annotations

import io
import time
import traceback
from dataclasses import dataclass, field

import cv2
import numpy as np
import resvg_py
from numpy.typing import NDArray
from PIL import Image

from bisectum.core.cache import Cache
from bisectum.core.errors import BisectumError, SettingsError
from bisectum.core.formats.svg.verify import verify_svg
from bisectum.core.formats.svg.write import write_svg
from tests.support.asserts import Traced, trace_into

BUILDS = ("whole", "flush", "lapped")
TREATMENTS = ("colours", "lightness", "dark", "line_shade", "stencil", "silhouette")
NOTHING_THERE = ("nothing_left", "nothing_dark", "no_outline")
RENDERED_PX = 1_000_000
WRONG = 0.001  # of the pixels clear of any line may have another colour than they should


@dataclass
class Trial:
    """faults: sentences, empty when all is well. refusal: what a person was told instead of a file."""

    name: str
    faults: list[str] = field(default_factory=list)
    refusal: str = ""
    seconds: float = 0.0
    pieces: int = 0
    nodes: int = 0


def tried(
    name: str, rgba: NDArray[np.uint8], build: str, colours: int, cache: Cache, width_mm: float = 150.0, treatment: str = ""
) -> Trial:
    """rgba : (H, W, 4) uint8. colours: layers wanted, 0 as many as there are. cache: what earlier builds share. treatment: as a
    photograph, where given."""
    trial = Trial(f"{name}, {build}, {treatment or colours or 'auto'}")
    asked = {"kind": "photo", "treatment": treatment} if treatment else {"count": colours or None}
    began = time.perf_counter()
    try:
        result = trace_into(cache, rgba, 0.1, name=name, picture={"width_mm": width_mm}, colours=asked,
                            layers={"build": build})
        trial.pieces, trial.nodes = result.artwork.piece_count, result.artwork.node_count
        trial.faults += [f"{fault.kind} at {fault.x:.2f}, {fault.y:.2f}" for fault in result.make.arrangement.planar.faults()]
        result.artwork.check()
        text = write_svg(result.artwork, name)
        verify_svg(text, result.artwork)
        trial.faults += rendered_otherwise(text, result)
    except SettingsError as error:  # nothing is left to cut: the person's to change
        trial.refusal = error.message
        if error.code not in NOTHING_THERE:
            trial.faults.append(error.message)
    except BisectumError as error:
        trial.faults.append(f"refused: {error.message}")
    except Exception:
        trial.faults.append(traceback.format_exc(limit=-3))
    trial.seconds = time.perf_counter() - began
    return trial


def rendered_otherwise(text: str, result: Traced) -> list[str]:
    """Render the file and hold it against the labels: pixels clear of all lines must have their layer's colour."""
    labels, artwork, (left, top, frame_width, frame_height) = result.label_map.labels, result.artwork, result.frame
    scale = min(1.0, (RENDERED_PX / labels.size) ** 0.5)
    px_per_mm = scale * labels.shape[1] / frame_width
    width, height = (max(1, round(size * px_per_mm)) for size in (artwork.width, artwork.height))
    png = bytes(resvg_py.svg_to_bytes(svg_string=text, width=width, height=height, dpi=96))
    image = np.asarray(Image.open(io.BytesIO(png)).convert("RGBA"))
    across, down = image.shape[1] / artwork.width, image.shape[0] / artwork.height
    rows = (np.arange(image.shape[0]) + 0.5) / down - top
    columns = (np.arange(image.shape[1]) + 0.5) / across - left
    rows = np.clip((rows / frame_height * labels.shape[0]).astype(int), 0, labels.shape[0] - 1)
    columns = np.clip((columns / frame_width * labels.shape[1]).astype(int), 0, labels.shape[1] - 1)
    wanted = labels[rows[:, None], columns]
    reach = int(np.ceil(result.planar_map.deviation * across + 2.0))
    mask = np.ones((2 * reach + 1, 2 * reach + 1), np.uint8)
    clear = cv2.erode(wanted, mask) == cv2.dilate(wanted, mask)
    clear[[0, -2, -1]], clear[:, [0, -2, -1]] = False, False  # page and picture may end within a pixel
    colours = np.array([(0, 0, 0, 0), *((*colour.rgb, 255) for colour in result.label_map.palette.colours)])
    off = (np.abs(image.astype(int) - colours[wanted]).max(axis=2) > 2) & clear & (image[..., 3:] + wanted[..., None] > 0)[..., 0]
    share = off.sum() / max(1, clear.sum())
    if share <= WRONG:
        return []
    y, x = np.argwhere(off)[0]
    return [f"{100 * share:.2f} % of the rendered pixels have another colour, the first at {x}, {y} of {image.shape[1]}"]
