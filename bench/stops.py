"""How soon Stop is obeyed: how long the next order waits after one was stopped, s, at moments spread over its time.

Large and small pictures go through every step as a job, through the cut check and onto sheets. Run: make stops, or bench/stops.py
WORD for the pictures whose names hold the word.
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from bisectum.core.check import check_make  # noqa: E402
from bisectum.core.course import CourseSettings, Source  # noqa: E402
from bisectum.core.errors import BisectumError  # noqa: E402
from bisectum.core.job import new_document  # noqa: E402
from bisectum.core.make import run_make  # noqa: E402
from bisectum.core.progress import Progress  # noqa: E402
from bisectum.core.steps.sheets.step import lay_out  # noqa: E402
from bisectum.services.compute import begin  # noqa: E402
from bisectum.services.sheets import desk_of  # noqa: E402
from bisectum.worker.lane import Lane  # noqa: E402
from tests.support.strangers import resized, strangers  # noqa: E402

SIZES = {"coffee": (1, 12), "page": (1, 12), "flower": (12,), "noise": (1,), "escape": (12,), "gravel": (1,)}  # megapixels
DIGEST = "0" * 64
COLOURS: dict[str, dict[str, object]] = {
    "as it comes": {}, "colours": {"kind": "photo"}, "line and shade": {"kind": "photo", "treatment": "line_shade"},
    "ink": {"kind": "handwriting"},
}
STOPS = 6


def nothing(progress: Progress) -> None:
    return None


def job(picture: str, fields: dict[str, object], layouts: str, progress: Progress) -> float:
    """From a picture to what the cut check says, and the sheets. Returns the seconds it took. Raises: BisectumError."""
    begun = time.perf_counter()
    document = new_document(DIGEST, "", "stops", CourseSettings.model_validate({"colours": fields}))
    result = run_make({DIGEST: Source(np.load(picture), 0.1, DIGEST)}, document, {}, progress)
    desk = desk_of(document, result, Path(layouts))
    check_make(document, result, desk, (), progress)
    lay_out(result.artwork, desk, progress)
    return time.perf_counter() - begun


def waits(lane: Lane, *arguments: Any) -> tuple[float, list[float]]:
    """How long a job takes, and how long the next order waits after it was stopped. Raises: BisectumError."""
    whole = lane.order("whole", job, *arguments).result()
    found = []
    for number in range(STOPS):
        lane.order("stopped", job, *arguments)
        time.sleep(whole * (number + 0.5) / STOPS)
        begun = time.perf_counter()
        lane.stop("stopped")
        lane.order("next", nothing).result()
        found.append(time.perf_counter() - begun)
    return whole, found


def main() -> None:
    lane = Lane("bench", (begin, (500 * 2**20,)))
    pictures = {stranger.name: stranger for stranger in strangers(1)}
    print(f"{'picture':10} {'MP':>4}  {'treated':14} {'whole':>7} {'median':>7} {'worst':>7}")
    with tempfile.TemporaryDirectory() as folder:
        for name in [name for name in SIZES if not sys.argv[1:] or any(word in name for word in sys.argv[1:])]:
            for size in SIZES[name]:
                path = f"{folder}/picture.npy"
                np.save(path, resized(pictures[name].load(), size * 10**6))
                for treated, fields in COLOURS.items():
                    try:
                        whole, found = waits(lane, path, fields, folder)
                    except BisectumError as error:
                        print(f"{name:10} {size:4}  {treated:14} {error.code}", flush=True)
                        continue
                    print(f"{name:10} {size:4}  {treated:14} {whole:7.1f} {np.median(found):7.2f} {max(found):7.2f}", flush=True)
    lane.close()


if __name__ == "__main__":
    main()
