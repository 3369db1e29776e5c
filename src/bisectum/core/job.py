"""What a job is made of: the document that is kept, changed and undone as a whole.

A job holds items, each with an id that is never used again, and the settings of the make: how the items lie together, how
they become layers. Settings name places and colours of pictures, never results, so they survive every new trace.
Documents of older forms are brought forward by core/older.py.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any, Literal, Self, cast

from pydantic import Field, StringConstraints, model_validator

from bisectum.core.course import STEPS, CourseSettings, StepName
from bisectum.core.errors import NotFoundError, SettingsError
from bisectum.core.patterns import ITEM_ID, SHA256
from bisectum.core.steps.arrange.settings import ArrangeSettings, Part, Place
from bisectum.core.steps.layers.settings import LayersSettings
from bisectum.core.steps.settings import StepSettings

LONGEST_NAME = 80
MOST_ITEMS = 50
MakeStep = Literal["arrange", "layers"]
Name = Annotated[str, StringConstraints(min_length=1, max_length=LONGEST_NAME, pattern=r"\S")]
FieldName = tuple[str, ...]
"""Names one field of the document: ("items", id, step, field), ("make", step, field), ("items",) or ("name",)."""


class PictureItem(StepSettings):
    """A picture in a job, with its course. source: SHA-256 of the file's bytes."""

    id: str = Field(pattern=ITEM_ID, title="Identity within the job")
    kind: Literal["picture"] = Field("picture", title="What the item is")
    name: Name = Field(title="What the item is called")
    source: str = Field(pattern=SHA256, title="The picture file")
    file_name: str = Field(max_length=LONGEST_NAME, title="What the file was called")
    course: CourseSettings = Field(default_factory=CourseSettings, title="Settings of its steps")
    place: Place = Field(default_factory=Place, title="Where it lies")
    part: Part = Field(default_factory=Part, title="What it does to what lies under it")


class MakeSettings(StepSettings):
    """The settings of the steps that concern all items together."""

    arrange: ArrangeSettings = Field(default_factory=ArrangeSettings, title="Arrange")
    layers: LayersSettings = Field(default_factory=LayersSettings, title="Layers")


class JobDocument(StepSettings):
    """All that belongs to one make. minted: how many ids of items and layers have been given out."""

    version: Literal[2] = Field(2, title="Version of the document's form")
    name: Name = Field(title="The job's name")
    items: tuple[PictureItem, ...] = Field(min_length=1, max_length=MOST_ITEMS, title="Pictures of the job, lowest first")
    make: MakeSettings = Field(default_factory=MakeSettings, title="Settings of the make")
    minted: int = Field(1, ge=1, le=10**9 - 1, title="How many ids have been given out")

    @model_validator(mode="after")
    def _is_whole(self) -> Self:
        ids = [item.id for item in self.items]
        if len(set(ids)) != len(ids):
            raise ValueError("two items have the same id")
        records = [record.id for record in self.make.layers.records]
        if len(set(records)) != len(records):
            raise ValueError("two layers have the same id")
        if any(int(name.rsplit("-", 1)[1]) > self.minted for name in (*ids, *records)):
            raise ValueError("an id was used that has not been given out")
        return self

    def item(self, item_id: str) -> PictureItem:
        """Raises: NotFoundError."""
        for item in self.items:
            if item.id == item_id:
                return item
        raise NotFoundError("This picture is no longer part of the job.", code="item_missing", item=item_id)

    def with_item(self, item_id: str, **fields: Any) -> JobDocument:
        """With fields of one item replaced. Raises: NotFoundError, pydantic.ValidationError."""
        changed = self.item(item_id).with_fields(fields)
        return self._with(items=tuple(changed if item.id == item_id else item for item in self.items))

    def with_step(self, item_id: str, step: StepName, settings: dict[str, Any]) -> JobDocument:
        """With fields of one step of one item replaced. Raises: NotFoundError, pydantic.ValidationError."""
        return self.with_item(item_id, course=self.item(item_id).course.changed(step, settings))

    def with_make_step(self, step: MakeStep, settings: dict[str, Any]) -> JobDocument:
        """With fields of one step of the make replaced; layers without an id are given one.

        Raises: pydantic.ValidationError.
        """
        minted = self.minted
        if step == "layers":
            settings, minted = _with_ids(settings, minted)
        changed = getattr(self.make, step).with_fields(settings)
        return self._with(make=self.make.with_fields({step: changed}), minted=minted)

    def with_picture(self, source: str, file_name: str, name: str, course: CourseSettings) -> JobDocument:
        """With one more picture, above the others. Raises: SettingsError."""
        if len(self.items) >= MOST_ITEMS:
            raise SettingsError(f"A job holds at most {MOST_ITEMS} pictures. Begin a new one.", code="too_many_items",
                                most=MOST_ITEMS)
        item = PictureItem(id=f"picture-{self.minted + 1}", name=name, source=source, file_name=file_name, course=course)
        return self._with(items=(*self.items, item), minted=self.minted + 1)

    def without_item(self, item_id: str) -> JobDocument:
        """Without one item; what was said about its layers goes with it. Raises: NotFoundError; SettingsError for the last."""
        self.item(item_id)
        if len(self.items) == 1:
            raise SettingsError("This is the only picture of the job; take the job off the shelf instead.", code="last_item")
        records = []
        for record in self.make.layers.records:
            anchors = tuple(anchor for anchor in record.anchors if anchor.item != item_id)
            if anchors:
                records.append(record.with_fields({"anchors": anchors}))
        layers = self.make.layers.with_fields({
            "records": tuple(records), "order": tuple(name for name in self.make.layers.order if name in
                                                      {record.id for record in records}),
        })
        return self._with(items=tuple(item for item in self.items if item.id != item_id),
                          make=self.make.with_fields({"layers": layers}))

    def moved(self, item_id: str, place: int) -> JobDocument:
        """With an item at another place among the others, 0 the lowest. Raises: NotFoundError."""
        item = self.item(item_id)
        others = [other for other in self.items if other.id != item_id]
        others.insert(min(max(0, place), len(others)), item)
        return self._with(items=tuple(others))

    def renamed(self, name: str) -> JobDocument:
        """Raises: pydantic.ValidationError."""
        return self._with(name=name.strip())

    def _with(self, **fields: Any) -> JobDocument:
        return cast(JobDocument, self.with_fields(fields))

    # What changed

    def fields(self) -> Iterator[tuple[FieldName, Any]]:
        """Every field a person can change, with its value."""
        yield ("name",), self.name
        yield ("items",), tuple(item.id for item in self.items)
        for item in self.items:
            for own in ("name", "place", "part"):
                yield ("items", item.id, own), getattr(item, own)
            for step in STEPS:
                settings = getattr(item.course, step)
                for name in type(settings).model_fields:
                    yield ("items", item.id, step, name), getattr(settings, name)
        for part in type(self.make).model_fields:
            settings = getattr(self.make, part)
            for name in type(settings).model_fields:
                yield ("make", part, name), getattr(settings, name)

    def changed_since(self, before: JobDocument) -> set[FieldName]:
        """The fields that differ from an earlier state of the job."""
        then, now = dict(before.fields()), dict(self.fields())
        return {name for name in then.keys() | now.keys() if name not in then or name not in now
                or not (then[name] is now[name] or then[name] == now[name])}


def _with_ids(settings: dict[str, Any], minted: int) -> tuple[dict[str, Any], int]:
    """Give the layers without an id one, and their places in the order it: there they are named by a dash and their number
    in the list."""
    records, named = [], {}
    for number, record in enumerate(settings.get("records", ())):
        if isinstance(record, dict) and not record.get("id"):
            minted += 1
            named[f"-{number}"] = f"layer-{minted}"
            record = {**record, "id": f"layer-{minted}"}
        records.append(record)
    if "records" in settings:
        settings = {**settings, "records": records}
    if named and isinstance(settings.get("order"), list | tuple):
        settings = {**settings, "order": [named.get(name, name) if isinstance(name, str) else name for name in settings["order"]]}
    return settings, minted


def new_document(source: str, file_name: str, name: str, course: CourseSettings, make: MakeSettings | None = None) -> JobDocument:
    """A job of one picture. Raises: pydantic.ValidationError."""
    item = PictureItem(id="picture-1", name=name, source=source, file_name=file_name, course=course)
    return JobDocument(name=name, items=(item,), make=make or MakeSettings())
