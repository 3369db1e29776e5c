"""The demo jobs: the open day of the small harbour at Quillhaven."""

from __future__ import annotations

from pathlib import Path

from bisectum.core.course import CourseSettings
from bisectum.core.errors import InputError
from bisectum.services.bench import Bench, NewJob
from bisectum.services.files import read_file

JOBS: tuple[tuple[str, str, dict[str, dict[str, object]]], ...] = (
    ("kettle.jpg", "Enamel kettle for the tea tent", {"picture": {"width_mm": 180.0}}),
    ("berth-sign.png", "Berth sign for the open day", {"picture": {"width_mm": 160.0}}),
    ("lighthouse.png", "Lighthouse for the harbour window", {"picture": {"width_mm": 142.0}, "layers": {"base": "#1c2a44"}}),
)


def lay_out(bench: Bench, pictures: Path) -> None:
    """Put the demo jobs on an empty shelf, all at once: a start that is stopped leaves none behind.

    Raises: InputError where the demo pictures are missing.
    """
    if bench.jobs():
        return
    missing = next((file_name for file_name, _, _ in JOBS if not (pictures / file_name).exists()), None)
    if missing is not None:
        raise InputError(f"The demo picture {missing} is missing; run demo/make_pictures.py.", code="demo_missing")
    for job in bench.new_jobs([NewJob(read_file(pictures / file_name), file_name, name, CourseSettings.model_validate(settings))
                               for file_name, name, settings in JOBS]):
        bench.result(job.id)
