"""Time and peak memory of every stage at 1, 4 and 12 megapixels, beside general-purpose libraries on the same input.

Run: make bench. Believe the ratios: both sides run in one process, one after the other, the median of three.
"""

from __future__ import annotations

import io
import multiprocessing
import resource
import statistics
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parent))

SIZES = ((1_000, 1_000), (2_000, 2_000), (4_000, 3_000))
ROUNDS = 3


def timed(work: Callable[[], Any]) -> tuple[float, Any]:
    """Median seconds of ROUNDS runs, and the last result."""
    seconds, result = [], None
    for _ in range(ROUNDS):
        began = time.perf_counter()
        result = work()
        seconds.append(time.perf_counter() - began)
    return statistics.median(seconds), result


def memory_mb() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def stages(size: tuple[int, int], report: Any) -> None:
    """Measure one size; runs in a process of its own so that the peak is this size's."""
    import cv2
    import numpy as np
    import rasterio.features
    from drawing import harbour
    from PIL import Image
    from skimage.measure import find_contours

    from bisectum.core.formats.svg.verify import verify_svg
    from bisectum.core.formats.svg.write import write_svg
    from bisectum.core.raster.cracks import crack_graph
    from bisectum.core.raster.resample import premultiplied
    from bisectum.core.steps.background.settings import BackgroundSettings
    from bisectum.core.steps.background.step import find_background
    from bisectum.core.steps.colours import step as colours
    from bisectum.core.steps.colours.flat_pixels import flat_colours, ridge_colours
    from bisectum.core.steps.colours.modes import find_modes, thin_modes
    from bisectum.core.steps.colours.settings import ColoursSettings
    from bisectum.core.steps.layers.settings import LayersSettings
    from bisectum.core.steps.layers.step import build_layers
    from bisectum.core.steps.lines.settings import LinesSettings
    from bisectum.core.steps.lines.step import draw_lines
    from bisectum.core.steps.picture.settings import PictureSettings
    from bisectum.core.steps.picture.step import prepare_picture
    from bisectum.services.decode import decode

    buffer = io.BytesIO()
    harbour(*size).save(buffer, "PNG")
    base = memory_mb()
    rows: list[tuple[str, float, float]] = []

    def stage(name: str, work: Callable[[], Any]) -> Any:
        seconds, result = timed(work)
        rows.append((name, seconds, memory_mb() - base))
        return result

    source, _ = stage("decode", lambda: decode(buffer.getvalue()))
    picture = prepare_picture(source.rgba, 200.0 / size[0], PictureSettings())
    ground = stage("background", lambda: find_background(picture, BackgroundSettings()))

    def palette() -> np.ndarray:
        flat = flat_colours(picture.rgba, ground.mask)
        modes, _ = find_modes(flat.colours, flat.counts)
        thin_modes(*ridge_colours(picture.rgba, ground.mask), modes)
        return modes

    modes = stage("palette", palette)
    label_map = stage("palette + assignment", lambda: colours.separate_colours(picture, ground, ColoursSettings()))
    stage("crack graph", lambda: crack_graph(label_map.labels))
    rgb = np.array([colour.rgb for colour in label_map.palette.colours], np.uint8)
    image, surfaces = premultiplied(picture.rgba), colours.surfaces_of(ground, rgb)
    planar = stage("graph + refine + fit", lambda: draw_lines(label_map, image, surfaces, LinesSettings()))
    artwork = stage("layers", lambda: build_layers(planar, LayersSettings(), "artwork", None))
    text = stage("write", lambda: write_svg(artwork, "bench"))
    stage("read back", lambda: verify_svg(text, artwork))

    labels = label_map.labels
    pixels = picture.rgba[..., :3].reshape(-1, 3).astype(np.float32)
    criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 10, 1.0)
    whole = Image.fromarray(np.ascontiguousarray(picture.rgba[..., :3]))
    beside = {
        "rasterio.features.shapes": timed(lambda: sum(1 for _ in rasterio.features.shapes(labels)))[0],
        "skimage find_contours, each label": timed(
            lambda: [find_contours((labels == label).astype(float), 0.5) for label in range(1, len(rgb) + 1)]
        )[0],
        "Pillow quantize": timed(lambda: whole.quantize(len(modes)))[0],
    }
    began = time.perf_counter()
    cv2.kmeans(pixels, len(modes) + 1, None, criteria, 1, cv2.KMEANS_PP_CENTERS)
    beside["OpenCV k-means"] = time.perf_counter() - began
    report.send((rows, beside, len(planar.face_labels), len(planar.segments)))


def show(
    size: tuple[int, int], rows: list[tuple[str, float, float]], beside: dict[str, float], faces: int, segments: int
) -> None:
    seconds = {name: value for name, value, _ in rows}
    print(f"\n{size[0]} × {size[1]}: {size[0] * size[1] / 1e6:.0f} MP, {faces} areas, {segments} segments")
    for name, value, memory in rows:
        print(f"  {name:<26}{value:8.3f} s   peak so far +{memory:6.0f} MB")
    for name, value in beside.items():
        ours = "graph + refine + fit" if "shapes" in name or "contours" in name else "palette + assignment"
        print(f"  {name:<34}{value:8.3f} s   ours ({ours}) / this = {seconds[ours] / value:5.2f}")


def main() -> None:
    context = multiprocessing.get_context("spawn")
    for size in SIZES:
        ours, theirs = context.Pipe()
        process = context.Process(target=stages, args=(size, theirs))
        process.start()
        theirs.close()
        show(size, *ours.recv())
        process.join()


if __name__ == "__main__":
    main()
