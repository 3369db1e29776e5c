"""The demo jobs: the open day of the small harbour at Quillhaven."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from bisectum.core.course import CourseSettings
from bisectum.core.errors import InputError
from bisectum.core.job import JobDocument, MakeSettings
from bisectum.core.steps.sheets.carriers import CARRIERS
from bisectum.services.bench import Bench, NewJob
from bisectum.services.files import read_file

Extra = tuple[str, str, dict[str, Any]]


@dataclass(frozen=True, slots=True)
class DemoJob:
    """A job of the demo: its picture, its name, the finished width, what it is put on; settings: of the steps of its picture;
    layers, sheets: of those of the make; place: where it lies; below, above: further items, as kind, name and fields; others:
    files of further pictures."""

    file_name: str
    name: str
    width_mm: float
    base: str = "#ffffff"
    settings: dict[str, Any] = field(default_factory=dict)
    layers: dict[str, Any] = field(default_factory=dict)
    sheets: dict[str, Any] = field(default_factory=dict)
    place: dict[str, float] = field(default_factory=dict)
    below: tuple[Extra, ...] = ()
    above: tuple[Extra, ...] = ()
    others: tuple[str, ...] = ()


# What somebody has done to it: an ear kept, two bits of water under the chin cleared, what is too small to be weeded left out.
DOG = {
    "background": {"mode": "subject", "touches": (
        {"kind": "keep", "points": ((0.225, 0.28), (0.235, 0.38), (0.25, 0.47)), "width": 0.03},
        {"kind": "spot_clear", "points": ((0.392, 0.698),), "reach": 5},
        {"kind": "spot_clear", "points": ((0.612, 0.698),), "reach": 5},
    )},
    "colours": {"kind": "photo"},
    "pieces": {"smallest_mm2": 4.0},
}
NIGHT, CREAM, RED = "#1c2a44", "#f3e9d4", "#c4422e"
MIDDLE = {"x_mm": 0.0, "y_mm": 0.0}
AROUND = {"font": "bebas-neue", "capital_mm": 8.5, "along": "circle", "colour": CREAM}


def _disc(name: str, width: float, colour: str) -> Extra:
    return "shape", name, {"made": {"form": "ellipse", "width_mm": width, "height_mm": width, "colour": colour}, "place": MIDDLE}


def _star(name: str, x: float) -> Extra:
    made = {"form": "star", "width_mm": 8, "height_mm": 7.6, "colour": RED}
    return "shape", name, {"made": made, "place": {"x_mm": x, "y_mm": 18.0}}


# A dozen badges from a roll; and a kettle to be pressed on cloth, its sheets in register.
ROLL = {"layout": "ganged", "carrier": CARRIERS["roll-457"], "copies": 12}
PRESSED = {"marks": "cross", "frame": True, "centred": True}

BADGE = DemoJob(
    "lighthouse.png", "Badge for the harbour crew", 42.0, "#d9d2c3", sheets=ROLL, place={"x_mm": 0.0, "y_mm": -1.0},
    below=(_disc("Ground", 104, NIGHT), _disc("Window", 72, CREAM)),
    above=(
        ("lettering", "Upper words", {"made": {**AROUND, "text": "QUILLHAVEN HARBOUR", "spacing_mm": 1.2, "radius_mm": 39.5},
                                      "place": MIDDLE}),
        ("lettering", "Lower words", {"made": {**AROUND, "text": "CREW", "spacing_mm": 2.5, "radius_mm": 48, "inward": True},
                                      "place": MIDDLE}),
        _star("Left star", -40.0), _star("Right star", 40.0),
        ("border", "Border", {"made": {"distance_mm": 3.175}}),
    ),
)
JOBS = (
    DemoJob("tide-note.jpg", "Tide note for the kitchen wall", 110.0, "#f3e9d4", others=("bun-note.jpg",)),
    DemoJob("lunch-crate.png", "Lunch crate for the crew", 210.0, "#6d5a45"),
    DemoJob("dog.jpg", "Barnacle the harbour dog", 150.0, settings=DOG),
    DemoJob("kettle.jpg", "Enamel kettle for the tea tent", 180.0, layers={"material": "heat-transfer vinyl"}, sheets=PRESSED),
    DemoJob("berth-sign.png", "Berth sign for the open day", 160.0),
    BADGE,
    DemoJob("lighthouse.png", "Lighthouse for the harbour window", 142.0, "#1c2a44"),
)


def lay_out(bench: Bench, pictures: Path) -> None:
    """Put the demo jobs on an empty shelf, all at once: a start that is stopped leaves none behind.

    Raises: InputError where the demo pictures are missing.
    """
    if bench.jobs():
        return
    files = [name for job in JOBS for name in (job.file_name, *job.others)]
    missing = next((name for name in files if not (pictures / name).exists()), None)
    if missing is not None:
        raise InputError(f"The demo picture {missing} is missing; run demo/make_pictures.py.", code="demo_missing")
    bench.new_jobs([_new(job, pictures) for job in JOBS])


def _new(job: DemoJob, pictures: Path) -> NewJob:
    course = CourseSettings.model_validate({"picture": {"width_mm": job.width_mm}} | job.settings)
    make = MakeSettings.model_validate({"layers": {"base": job.base} | job.layers, "sheets": job.sheets})
    others = tuple((read_file(pictures / name), name) for name in job.others)
    return NewJob(read_file(pictures / job.file_name), job.file_name, job.name, course, make,
                  lambda document: _with_items(document, job), others)


def _with_items(document: JobDocument, job: DemoJob) -> JobDocument:
    """The document with the job's further items, in their order."""
    if job.place:
        document = document.with_item(document.items[0].id, place=job.place)
    for number, (kind, name, fields) in enumerate(job.below):
        document = document.with_made(kind, name, fields)
        document = document.moved(document.items[-1].id, number)
    for kind, name, fields in job.above:
        document = document.with_made(kind, name, fields)
    return document
