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
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parent))

SIZES = ((1_000, 1_000), (2_000, 2_000), (4_000, 3_000))
ROUNDS = 3
COLOURS, LINES, WHOLE_LINES = "palette + assignment", "graph + refine + fit", "lines, the whole step"
Row = tuple[str, float, float]  # what, seconds, MB at the peak so far


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


@contextmanager
def clocked(module: Any, names: tuple[str, ...]) -> Iterator[list[float]]:
    """Seconds spent in some functions of a module, while this holds."""
    spent = [0.0]

    def measured(function: Any) -> Any:
        def call(*arguments: Any, **named: Any) -> Any:
            began = time.perf_counter()
            result = function(*arguments, **named)
            spent[0] += time.perf_counter() - began
            return result

        return call

    kept = {name: getattr(module, name) for name in names}
    for name, function in kept.items():
        setattr(module, name, measured(function))
    yield spent
    for name, function in kept.items():
        setattr(module, name, function)


def drawn(label_map: Any, image: Any, surfaces: Any) -> tuple[Any, float, float]:
    """The lines, the median seconds of the whole step, and of graph, refinement and fit alone."""
    from bisectum.core.steps.lines import step
    from bisectum.core.steps.lines.settings import LinesSettings

    alone = []
    finder = step.PointFinder

    def work() -> Any:
        with (clocked(step, ("crack_graph", "blending_of", "corners_of", "fit_outline", "fit_ellipse")) as fit,
              clocked(finder, ("find", "found")) as refine):
            result = step.draw_lines(label_map, image, surfaces, LinesSettings())
        alone.append(fit[0] + refine[0])
        return result

    seconds, planar = timed(work)
    return planar, seconds, statistics.median(alone)


def of_labels(labels: Any) -> dict[str, float]:
    """Seconds of what others make of a label map."""
    import rasterio.features
    from skimage.measure import find_contours

    return {
        "rasterio.features.shapes": timed(lambda: sum(1 for _ in rasterio.features.shapes(labels)))[0],
        "skimage find_contours, each label": timed(
            lambda: [find_contours((labels == label).astype(float), 0.5) for label in range(1, labels.max() + 1)])[0],
    }


def of_pixels(rgb: Any, colours: int) -> dict[str, float]:
    """Seconds of what others take to reduce a picture to so many colours."""
    import cv2
    import numpy as np
    from PIL import Image

    whole, pixels = Image.fromarray(np.ascontiguousarray(rgb)), rgb.reshape(-1, 3).astype(np.float32)
    criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 10, 1.0)
    quantize = timed(lambda: whole.quantize(colours))[0]
    began = time.perf_counter()
    cv2.kmeans(pixels, colours, None, criteria, 1, cv2.KMEANS_PP_CENTERS)
    return {"Pillow quantize": quantize, "OpenCV k-means": time.perf_counter() - began}


def stages(picture_file: bytes, report: Any) -> None:
    """Measure one picture; runs in a process of its own so that the peak is this one's."""
    import numpy as np
    from drawing import palette_and_labels

    from bisectum.core.formats.svg.verify import verify_svg
    from bisectum.core.formats.svg.write import write_svg
    from bisectum.core.model.arrangement import Glance
    from bisectum.core.raster.resample import premultiplied
    from bisectum.core.steps.arrange.settings import ArrangeSettings, Place
    from bisectum.core.steps.arrange.step import Laid, arrange
    from bisectum.core.steps.background.settings import BackgroundSettings
    from bisectum.core.steps.background.step import find_background
    from bisectum.core.steps.colours import step as colours
    from bisectum.core.steps.colours.settings import ColoursSettings
    from bisectum.core.steps.layers.settings import LayersSettings
    from bisectum.core.steps.layers.step import build_layers
    from bisectum.core.steps.picture.settings import PictureSettings
    from bisectum.core.steps.picture.step import prepare_picture
    from bisectum.services.decode import decode

    rows: list[Row] = []
    source, _ = decode(picture_file)
    base = memory_mb()

    def stage(name: str, work: Callable[[], Any]) -> Any:
        seconds, result = timed(work)
        rows.append((name, seconds, memory_mb() - base))
        return result

    stage("decode", lambda: decode(picture_file))
    picture = prepare_picture(source.rgba, 200.0 / source.rgba.shape[1], PictureSettings())
    ground = stage("background", lambda: find_background(picture, BackgroundSettings()))
    stage(COLOURS, lambda: palette_and_labels(picture, ground))
    label_map = stage("colours, the whole step", lambda: colours.separate_colours(picture, ground, ColoursSettings()))
    rgb = np.array([colour.rgb for colour in label_map.palette.colours], np.uint8)
    planar, seconds, alone = drawn(label_map, premultiplied(picture.rgba), colours.surfaces_of(ground, rgb))
    rows.extend([(LINES, alone, memory_mb() - base), (WHOLE_LINES, seconds, memory_mb() - base)])
    laid = Laid("picture-1", planar, "artwork", None, Place(), Glance.of(label_map.labels, picture.places))
    arrangement = stage("arrange", lambda: arrange([laid], ArrangeSettings()))
    artwork = stage("layers", lambda: build_layers(arrangement, LayersSettings()))
    text = stage("write", lambda: write_svg(artwork, "bench"))
    stage("read back", lambda: verify_svg(text, artwork))
    beside = of_labels(label_map.labels) | of_pixels(picture.rgba[..., :3], len(rgb) + 1)
    title = f"{picture.width} × {picture.height}: {picture.width * picture.height / 1e6:.0f} MP"
    report.send((f"{title}, {len(planar.face_labels)} areas, {len(planar.segments)} segments", rows, beside))


def posterised(_: bytes, report: Any) -> None:
    """The lines of a photograph in tones, 1 MP, its smallest pieces left in."""
    import cv2
    import numpy as np
    import skimage.data

    from bisectum.core.model.picture import Picture
    from bisectum.core.raster.resample import premultiplied
    from bisectum.core.steps.background.settings import BackgroundSettings
    from bisectum.core.steps.background.step import find_background
    from bisectum.core.steps.colours import step as colours
    from bisectum.core.steps.colours.settings import ColoursSettings

    photo = cv2.resize(skimage.data.coffee(), (1225, 817), interpolation=cv2.INTER_CUBIC)
    picture = Picture(np.dstack([photo, np.full(photo.shape[:2], 255, np.uint8)]), 0.2)
    ground = find_background(picture, BackgroundSettings(mode="keep"))
    label_map = colours.separate_colours(picture, ground, ColoursSettings(kind="photo"))
    rgb = np.array([colour.rgb for colour in label_map.palette.colours], np.uint8)
    base = memory_mb()
    planar, seconds, alone = drawn(label_map, premultiplied(picture.rgba), colours.surfaces_of(ground, rgb))
    peak = memory_mb() - base
    title = f"a photograph in {len(rgb)} tones: 1 MP, {len(planar.face_labels)} areas, {len(planar.segments)} segments"
    report.send((title, [(LINES, alone, peak), (WHOLE_LINES, seconds, peak)], of_labels(label_map.labels)))


def show(title: str, rows: list[Row], beside: dict[str, float]) -> None:
    seconds = {name: value for name, value, _ in rows}
    print(f"\n{title}")
    for name, value, memory in rows:
        print(f"  {name:<26}{value:8.3f} s   peak so far +{memory:6.0f} MB")
    for name, value in beside.items():
        for ours in (LINES, WHOLE_LINES) if "shapes" in name or "contours" in name else (COLOURS,):
            print(f"  {name:<34}{value:8.3f} s   ours ({ours}) / this = {seconds[ours] / value:5.2f}")


def main() -> None:
    from drawing import harbour

    context = multiprocessing.get_context("spawn")
    for target, size in [*((stages, size) for size in SIZES), (posterised, SIZES[0])]:
        buffer = io.BytesIO()
        harbour(*size).save(buffer, "PNG")
        ours, theirs = context.Pipe()
        process = context.Process(target=target, args=(buffer.getvalue(), theirs))
        process.start()
        theirs.close()
        show(*ours.recv())
        process.join()


if __name__ == "__main__":
    main()
