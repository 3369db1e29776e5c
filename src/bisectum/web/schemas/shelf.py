"""What the API takes about several jobs at once."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from bisectum.services.shelf import MOST_AT_ONCE

JobIds = Annotated[list[Annotated[int, Field(ge=1, le=2**63 - 1)]], Field(min_length=1, max_length=MOST_AT_ONCE)]
Words = Annotated[list[Annotated[str, Field(max_length=400)]], Field(max_length=100)]


class JobList(BaseModel):
    jobs: JobIds


class Throwing(JobList):
    """thrown: off the shelf, or back onto it."""

    thrown: bool


class Tagging(JobList):
    """Words that are added to jobs, and others that are taken off."""

    add: Words = Field(default_factory=list)
    take_off: Words = Field(default_factory=list)


class CopyOf(BaseModel):
    job: int = Field(ge=1, le=2**63 - 1)
    name: str = Field(min_length=1, max_length=80)
