"""The demo jobs: the open day of the small harbour at Quillhaven."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from bisectum.core.course import CourseSettings
from bisectum.core.errors import InputError
from bisectum.core.job import MakeSettings
from bisectum.services.bench import Bench, NewJob
from bisectum.services.files import read_file


@dataclass(frozen=True, slots=True)
class DemoJob:
    """A job of the demo: its picture, its name, the finished width, what it is put on; settings: of
    the steps of its picture."""

    file_name: str
    name: str
    width_mm: float
    base: str = "#ffffff"
    settings: dict[str, Any] = field(default_factory=dict)


# What somebody has done to it: an ear kept, two bits of water under the chin cleared, the collar given its own colour.
DOG = {
    "background": {"mode": "person", "touches": (
        {"kind": "keep", "points": ((0.225, 0.28), (0.235, 0.38), (0.25, 0.47)), "width": 0.03},
        {"kind": "spot_clear", "points": ((0.392, 0.698),), "reach": 5},
        {"kind": "spot_clear", "points": ((0.612, 0.698),), "reach": 5},
    )},
    "colours": {"kind": "photo", "spots": ({"x": 0.5, "y": 0.742, "reach": 14},)},
}
JOBS = (
    DemoJob("dog.jpg", "Barnacle the harbour dog", 150.0, settings=DOG),
    DemoJob("kettle.jpg", "Enamel kettle for the tea tent", 180.0),
    DemoJob("berth-sign.png", "Berth sign for the open day", 160.0),
    DemoJob("lighthouse.png", "Lighthouse for the harbour window", 142.0, "#1c2a44"),
)


def lay_out(bench: Bench, pictures: Path) -> None:
    """Put the demo jobs on an empty shelf, all at once: a start that is stopped leaves none behind.

    Raises: InputError where the demo pictures are missing.
    """
    if bench.jobs():
        return
    missing = next((job.file_name for job in JOBS if not (pictures / job.file_name).exists()), None)
    if missing is not None:
        raise InputError(f"The demo picture {missing} is missing; run demo/make_pictures.py.", code="demo_missing")
    bench.new_jobs([_new(job, read_file(pictures / job.file_name)) for job in JOBS])


def _new(job: DemoJob, data: bytes) -> NewJob:
    course = CourseSettings.model_validate({"picture": {"width_mm": job.width_mm}} | job.settings)
    return NewJob(data, job.file_name, job.name, course, MakeSettings.model_validate({"layers": {"base": job.base}}))
