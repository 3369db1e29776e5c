"""What the API says about jobs."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from pydantic import BaseModel, Field

from bisectum.core.job import JobDocument
from bisectum.store.jobs import Change, Job


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


class JobSummary(BaseModel):
    """A job on the shelf."""

    id: int
    name: str
    changed_at: datetime
    has_thumbnail: bool

    @classmethod
    def of(cls, job: Job) -> JobSummary:
        return cls(id=job.id, name=job.document.name, changed_at=job.changed_at, has_thumbnail=job.thumbnail is not None)


class JobOut(BaseModel):
    """A job on the bench."""

    id: int
    revision: int
    document: JobDocument
    undo: ChangeOut | None
    redo: ChangeOut | None

    @classmethod
    def of(cls, job: Job) -> JobOut:
        return cls(id=job.id, revision=job.revision, document=job.document,
                   undo=ChangeOut.of(job.undo) if job.undo else None, redo=ChangeOut.of(job.redo) if job.redo else None)


class Rename(BaseModel):
    revision: int = Field(ge=0, le=2**63 - 1)
    name: str


class StepChange(BaseModel):
    """Fields of one step's settings; those not given stay."""

    revision: int = Field(ge=0, le=2**63 - 1)
    settings: dict[str, Any]


class StepPreview(BaseModel):
    settings: dict[str, Any]
