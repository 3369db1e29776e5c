"""What the API says about jobs."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from typing import Annotated, Any

from pydantic import BaseModel, Field

from bisectum.core.job import JobDocument
from bisectum.services.bench import Edits
from bisectum.store.jobs import Change, Job, JobSummary

Revision = Annotated[int, Field(ge=0, le=2**63 - 1)]
FieldNames = Annotated[str, Field(max_length=60)]


class ChangeOut(BaseModel):
    """A step of the history. what: a code the interface words with `values`."""

    revision: int
    what: str
    values: dict[str, Any]
    made_at: datetime
    done: bool

    @classmethod
    def of(cls, change: Change) -> ChangeOut:
        return cls(revision=change.revision, what=change.what, values=change.values, made_at=change.made_at, done=change.done)


class JobSummaryOut(BaseModel):
    """A job on the shelf. readable: whether it can be opened; if not, its bundle can be taken out. width_mm, height_mm,
    layers: of its last full result, 0 before there is one; thrown_at: when it was taken off the shelf."""

    id: int
    name: str
    changed_at: datetime
    has_thumbnail: bool
    pictures: int
    readable: bool
    tags: list[str]
    width_mm: float
    height_mm: float
    layers: int
    thrown_at: datetime | None

    @classmethod
    def of(cls, job: JobSummary) -> JobSummaryOut:
        return cls(id=job.id, name=job.name, changed_at=job.changed_at, has_thumbnail=job.thumbnail is not None,
                   pictures=job.pictures, readable=job.readable, tags=list(job.tags), width_mm=job.width_mm,
                   height_mm=job.height_mm, layers=job.layers, thrown_at=job.thrown_at)


class ShelfOut(BaseModel):
    """All jobs, and how many bytes were given back to the disk since the start."""

    jobs: list[JobSummaryOut]
    freed_bytes: int


class JobOut(BaseModel):
    """A job on the bench. moves: how often it has moved along its history, back and forth."""

    id: int
    revision: int
    moves: int
    document: JobDocument
    undo: ChangeOut | None
    redo: ChangeOut | None

    @classmethod
    def of(cls, job: Job) -> JobOut:
        return cls(id=job.id, revision=job.revision, moves=job.moves, document=job.document,
                   undo=ChangeOut.of(job.undo) if job.undo else None, redo=ChangeOut.of(job.redo) if job.redo else None)


class Changed(BaseModel):
    """What a change led to. base: the revision it was made on; where that is another one than it was sent for, more has
    changed than this."""

    id: int
    revision: int
    base: int
    moves: int
    undo: ChangeOut | None
    redo: ChangeOut | None

    @classmethod
    def of(cls, job: Job) -> Changed:
        return cls(id=job.id, revision=job.revision, base=job.base, moves=job.moves,
                   undo=ChangeOut.of(job.undo) if job.undo else None, redo=ChangeOut.of(job.redo) if job.redo else None)


class At(BaseModel):
    """The revision a change begins at. ticket: the sender's own name for the change. Sent again, after an answer got lost say, it
    is not made again; a move along the history needs none, it is known by where it begins."""

    revision: Revision
    ticket: str | None = Field(None, pattern=r"^[\w-]{1,40}$")


class Rename(At):
    name: str = Field(max_length=400)


class Resize(At):
    width_mm: float = Field(ge=5, le=20_000, allow_inf_nan=False)


class Move(At):
    place: int = Field(ge=0, le=1000)


class StepPreview(BaseModel):
    """Fields of one step's settings; those not given stay. add: members for the end of lists. take_out: members of lists by
    their numbers."""

    settings: dict[FieldNames, Any] = Field(default_factory=dict, max_length=40)
    add: dict[FieldNames, list[Any]] = Field(default_factory=dict, max_length=10)
    take_out: dict[FieldNames, list[int]] = Field(default_factory=dict, max_length=10)

    def edits(self) -> Edits:
        return Edits(self.settings, self.add, self.take_out)


class StepChange(StepPreview, At):
    def edits(self) -> Edits:
        return replace(super().edits(), ticket=self.ticket)
