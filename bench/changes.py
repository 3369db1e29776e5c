"""Time of single changes and what they cost on the disk and in memory, in one run. Run: make changes.

The bars stand behind the figures. Times are medians of ROUNDS; believe them only on a machine that does nothing else.
"""

from __future__ import annotations

import io
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
sys.path.insert(0, str(Path(__file__).parents[1]))

from drawing import harbour

from bisectum.core.course import PREVIEW_PX, CourseSettings, Source
from bisectum.core.job import JobDocument, new_document
from bisectum.core.make import run_make
from bisectum.core.steps.background.settings import Touch
from bisectum.services.bench import Bench, Edits
from bisectum.store.database import Database
from bisectum.store.jobs import Jobs

ROUNDS = 5
DIGEST = "a" * 64
ITEM = "picture-1"
MARKS, POINTS = 3900, 40  # a job takes 4,000


def said(what: str, value: float, bar: float, unit: str) -> None:
    print(f"  {what:<62}{value:9.1f} {unit:<3} (bar {bar:g}){'' if value <= bar else '  over'}", flush=True)


def timed(work: Callable[[int], Any]) -> float:
    """Median milliseconds of runs that are told their number, so that none finds the last one's result."""
    seconds = []
    for number in range(ROUNDS):
        began = time.perf_counter()
        work(number)
        seconds.append(time.perf_counter() - began)
    return 1000 * statistics.median(seconds)


def document_of(**steps: dict[str, Any]) -> JobDocument:
    return new_document(DIGEST, "harbour.png", "harbour", CourseSettings.model_validate(steps))


def marks(count: int) -> list[dict[str, Any]]:
    """Strokes of the brush as a hand makes them, in small boxes."""
    rng = np.random.default_rng(3)
    starts = rng.uniform(0.1, 0.9, (count, 2))
    ways = np.cumsum(rng.normal(0, 0.002, (count, POINTS, 2)), axis=1)
    places = np.round(starts[:, None] + ways, 5).tolist()
    return [{"kind": "clear", "points": own, "width": 0.004, "pressures": [], "reach": 4, "everywhere": False} for own in places]


def of_the_course(size: tuple[int, int], whole_bars: dict[str, float], preview_bars: dict[str, float]) -> None:
    source = Source(np.asarray(harbour(*size).convert("RGBA")), 200 / size[0], DIGEST)
    changes: dict[str, Callable[[int], dict[str, dict[str, Any]]]] = {
        "width": lambda number: {"picture": {"width_mm": 150.0 - 0.5 * number}},
        "light": lambda number: {"picture": {"width_mm": 150.0, "contrast": 0.1 + 0.01 * number}},
        "crop": lambda number: {
            "picture": {"width_mm": 150.0, "crop": {"x": 0, "y": 0, "width": 1 - 0.01 * number, "height": 0.7}}},
        "a correction": lambda number: {
            "picture": {"width_mm": 150.0},
            "lines": {"corrections": [{"kind": "move", "x": 0.3, "y": 0.3, "to_x": 0.3 + 1e-4 * number, "to_y": 0.3}]}},
    }
    for name, bars, most_px in (("whole", whole_bars, None), ("preview", preview_bars, PREVIEW_PX)):
        cache: dict[str, Any] = {}
        first = run_make({DIGEST: source}, document_of(picture={"width_mm": 150.0}), cache, most_px=most_px)
        segments = len(first.arrangement.planar.segments)
        print(f"{size[0] * size[1] / 1e6:.0f} MP, {name}, {segments} segments")
        for what, bar in bars.items():
            run_make({DIGEST: source}, document_of(**changes[what](ROUNDS)), cache, most_px=most_px)
            def work(number: int, change: Any = changes[what], cache: Any = cache, most_px: Any = most_px) -> None:
                run_make({DIGEST: source}, document_of(**change(number)), cache, most_px=most_px)

            said(f"change of {what}", timed(work), bar, "ms")


def of_the_store() -> None:
    """One brush mark a revision, thousands of them."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "bisectum.sqlite"
        jobs = Jobs(Database(path))
        job = jobs.create([document_of()], "brought_in", [{}])[0]
        all_marks = marks(MARKS)
        began = time.perf_counter()
        for mark in all_marks:
            def edit(now: JobDocument, edits: Edits = Edits({}, {"touches": [mark]})) -> JobDocument:
                return Bench.edited(now, ITEM, "background", edits)

            job = jobs.change(job.id, job.revision, edit, "x", {})
        seconds = time.perf_counter() - began
        size = sum(own.stat().st_size for own in Path(folder).glob("bisectum.sqlite*"))
        print(f"{MARKS} brush marks of {POINTS} points, one revision each")
        said("on the disk", size / 1e6, 60, "MB")
        said("one more", 1000 * seconds / MARKS, 150, "ms")

        def opened(_: int) -> None:
            Jobs(Database(path)).get(job.id)

        said("opened", timed(opened), 300, "ms")
        moved = 200
        began = time.perf_counter()
        for _ in range(moved):
            job = jobs.undo(job.id, job.revision)
        said("undone", 1000 * (time.perf_counter() - began) / moved, 150, "ms")


def of_a_mark() -> None:
    """A brush mark among thousands, to the new ground, with the computing process between."""
    from bisectum.main import make_bench

    with tempfile.TemporaryDirectory() as folder:
        bench, *_ = make_bench(Path(folder))
        buffer = io.BytesIO()
        harbour(1000, 1000).save(buffer, "PNG")
        course = CourseSettings.model_validate({"background": {"touches": marks(MARKS)}})
        job = bench.new_job(buffer.getvalue(), "harbour.png", course=course)
        bench.results.of(bench.job(job.id)).result()
        more = marks(MARKS + 2 * ROUNDS)[MARKS:]

        def kept(number: int) -> None:
            nonlocal job
            edits = Edits({}, {"touches": [more[number]]})
            job = bench.change(job.id, job.revision, ITEM, "background", edits)

        def ground(number: int) -> None:
            edits = Edits({}, {"touches": [more[ROUNDS + number]]})
            document = bench.edited(bench.job(job.id).document, ITEM, "background", edits)
            bench.results.ground(job.id, document, ITEM).result()

        ground(0)
        print(f"a brush mark among {MARKS}, 1 MP")
        said("kept", timed(kept), 150, "ms")
        bench.results.of(bench.job(job.id)).result()
        said("its ground shown", timed(ground), 150, "ms")
        bench.close()


def memory_of_tree() -> float:
    """Resident MB of this process and all below it, shared pages counted once."""
    total = 0.0
    for process in [os.getpid(), *_children(os.getpid())]:
        try:
            rollup = Path(f"/proc/{process}/smaps_rollup").read_text()
        except OSError:
            continue
        total += next(int(line.split()[1]) for line in rollup.splitlines() if line.startswith("Pss:")) / 1024
    return total


def _children(process: int) -> list[int]:
    found = subprocess.run(["ps", "-o", "pid=", "--ppid", str(process)], capture_output=True, text=True).stdout.split()
    return [int(own) for one in found for own in (one, *_children(int(one)))]


def of_memory() -> None:
    from bisectum.main import make_bench

    with tempfile.TemporaryDirectory() as folder:
        bench, *_ = make_bench(Path(folder))
        print("memory of all processes, opening jobs of 12 MP one after the other and dragging a slider in each")
        readings = []
        for number in range(10):
            buffer = io.BytesIO()
            harbour(4000, 3000, seed=number).save(buffer, "PNG")
            job = bench.new_job(buffer.getvalue(), f"{number}.png")
            bench.results.of(bench.job(job.id)).result()
            for step in range(3):
                edits = Edits({"exposure": 0.1 * step})
                bench.results.preview(job.id, bench.edited(job.document, ITEM, "picture", edits)).result()
            readings.append(memory_of_tree())
            print(f"  {number + 1}: {readings[-1]:.0f} MB", end="", flush=True)
        print()
        said("after ten", readings[-1], 1500, "MB")
        said("growth over the last five", max(readings[5:]) - readings[4], 150, "MB")
        bench.close()


def main() -> None:
    of_the_course((1000, 1000), {"width": 60, "a correction": 120, "light": 600}, {"width": 60, "light": 150, "crop": 150})
    of_the_course((4000, 3000), {"width": 200, "light": 1200}, {"width": 150, "light": 150, "crop": 150})
    of_a_mark()
    of_the_store()
    of_memory()


if __name__ == "__main__":
    assert Touch.model_validate(marks(1)[0])
    main()
