"""The demo jobs: the open day of the small harbour at Quillhaven."""

from __future__ import annotations

from pathlib import Path

from bisectum.core.course import CourseSettings
from bisectum.core.errors import InputError
from bisectum.services.bench import Bench
from bisectum.services.files import read_file

JOBS: tuple[tuple[str, str, dict[str, dict[str, object]]], ...] = (
    ("kettle.jpg", "Enamel kettle for the tea tent", {"picture": {"width_mm": 180.0}}),
    ("berth-sign.png", "Berth sign for the open day", {"picture": {"width_mm": 160.0}}),
    ("lighthouse.png", "Lighthouse for the harbour window", {"picture": {"width_mm": 142.0}, "layers": {"base": "#1c2a44"}}),
)


def lay_out(bench: Bench, pictures: Path) -> None:
    """Put the demo jobs on an empty shelf. Raises: InputError where the demo pictures are missing."""
    if bench.jobs():
        return
    for file_name, name, settings in JOBS:
        if not (pictures / file_name).exists():
            raise InputError(f"The demo picture {file_name} is missing; run demo/make_pictures.py.", code="demo_missing")
        bench.new_job(read_file(pictures / file_name), file_name, name, CourseSettings.model_validate(settings))
    for job in bench.jobs():
        bench.result(job.id)
