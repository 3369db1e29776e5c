"""What a job is made of: the document that is kept, changed and undone as a whole.

A job holds items, each with an id that never changes; today every item is a picture with its course. Settings name
places and colours of the picture, never results, so they survive every new trace.
"""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from bisectum.core.course import CourseSettings, StepName
from bisectum.core.errors import NotFoundError
from bisectum.core.steps.settings import StepSettings

LONGEST_NAME = 80


class PictureItem(StepSettings):
    """A picture in a job and its course. source: SHA-256 of the file's bytes."""

    id: str = Field(pattern=r"^[a-z0-9-]{1,40}$", title="Identity within the job")
    kind: Literal["picture"] = Field("picture", title="What the item is")
    source: str = Field(pattern=r"^[0-9a-f]{64}$", title="The picture file")
    file_name: str = Field(max_length=LONGEST_NAME, title="What the file was called")
    course: CourseSettings = Field(default_factory=CourseSettings, title="Settings of all steps")


class JobDocument(StepSettings):
    """All that belongs to one make."""

    version: Literal[1] = Field(1, title="Version of the document's form")
    name: str = Field(min_length=1, max_length=LONGEST_NAME, title="The job's name")
    items: tuple[PictureItem, ...] = Field(min_length=1, max_length=50, title="Pictures of the job")

    def item(self, item_id: str) -> PictureItem:
        """Raises: NotFoundError."""
        for item in self.items:
            if item.id == item_id:
                return item
        raise NotFoundError("This picture is no longer part of the job.", code="item_missing", item=item_id)

    def with_step(self, item_id: str, step: StepName, settings: dict[str, Any]) -> JobDocument:
        """With fields of one step of one item replaced. Raises: NotFoundError, pydantic.ValidationError."""
        self.item(item_id)
        data = self.model_dump()
        for item in data["items"]:
            if item["id"] == item_id:
                item["course"][step] |= settings
        return JobDocument.model_validate(data)

    def renamed(self, name: str) -> JobDocument:
        """Raises: pydantic.ValidationError."""
        return JobDocument.model_validate(self.model_dump() | {"name": name.strip()})
