"""What a job is made of: the document that is kept, changed and undone as a whole.

A job holds items, each with an id that is never used again, and the settings of the make: how the items lie together, how
they become layers. Settings name places and colours of pictures, never results, so they survive every new trace.
Documents of older forms are brought forward by core/older.py.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Annotated, Any, Literal, Self, cast

from pydantic import Field, StringConstraints, model_validator

from bisectum.core.course import STEPS, CourseSettings, StepName
from bisectum.core.errors import NotFoundError, SettingsError
from bisectum.core.items.settings import Border, Drawn, Lettering, Lifted, Lines, Shape
from bisectum.core.patterns import ITEM_ID, SHA256
from bisectum.core.steps.arrange.settings import ArrangeSettings, Part, Place
from bisectum.core.steps.check.settings import CheckSettings
from bisectum.core.steps.layers.opposite import is_dark
from bisectum.core.steps.layers.settings import LayerRecord, LayersSettings
from bisectum.core.steps.settings import StepSettings
from bisectum.core.steps.sheets.settings import SheetsSettings

LONGEST_NAME = 80
MOST_ITEMS = 50
MOST_IDS = 10**9 - 1  # given out in a job, of items and layers: as many as their pattern has digits for
MakeStep = Literal["arrange", "layers", "sheets", "check"]
Name = Annotated[str, StringConstraints(min_length=1, max_length=LONGEST_NAME, pattern=r"\S")]
FieldName = tuple[str, ...]
"""Names one field of the document: ("items", id, step, field), ("make", step, field), ("items",) or ("name",)."""


class Origin(StepSettings):
    """Where an item is from, as the person notes it; nothing hangs on it."""

    source: str = Field("", max_length=200, title="Where it was found")
    maker: str = Field("", max_length=LONGEST_NAME, title="Who made it")
    use: Literal["unknown", "own", "bought", "free"] = Field(
        "unknown", title="What it may be used for: own work, bought with a licence, free if its maker is named, or not known"
    )


class _Item(StepSettings):
    """What all items have: an identity, a name, a place and a part, and where they are from."""

    id: str = Field(pattern=ITEM_ID, title="Identity within the job")
    name: Name = Field(title="What the item is called")
    place: Place = Field(default_factory=Place, title="Where it lies")
    part: Part = Field(default_factory=Part, title="What it does to what lies under it")
    hidden: bool = Field(False, title="Left out for now")
    origin: Origin = Field(default_factory=Origin, title="Where it is from")


class PictureItem(_Item):
    """A picture in a job, with its course. source: SHA-256 of the file's bytes."""

    kind: Literal["picture"] = Field("picture", title="What the item is")
    source: str = Field(pattern=SHA256, title="The picture file")
    file_name: str = Field(max_length=LONGEST_NAME, title="What the file was called")
    course: CourseSettings = Field(default_factory=CourseSettings, title="Settings of its steps")


class LetteringItem(_Item):
    """Words."""

    kind: Literal["lettering"] = Field("lettering", title="What the item is")
    made: Lettering = Field(title="The words, and how they are cut")


class ShapeItem(_Item):
    """A shape of a set size."""

    kind: Literal["shape"] = Field("shape", title="What the item is")
    made: Shape = Field(default_factory=Shape, title="The shape")


class DrawnItem(_Item):
    """A line drawn by hand."""

    kind: Literal["drawn"] = Field("drawn", title="What the item is")
    made: Drawn = Field(title="Its nodes")


class BorderItem(_Item):
    """An outline around other items."""

    kind: Literal["border"] = Field("border", title="What the item is")
    made: Border = Field(default_factory=Border, title="How it goes around them")


class LiftedItem(_Item):
    """Pieces lifted out of a picture."""

    kind: Literal["lifted"] = Field("lifted", title="What the item is")
    made: Lifted = Field(title="Where they came from")


class LinesItem(_Item):
    """Ready lines of a vector file."""

    kind: Literal["lines"] = Field("lines", title="What the item is")
    made: Lines = Field(title="The file, and what is done with its lines")


Item = Annotated[
    PictureItem | LetteringItem | ShapeItem | DrawnItem | BorderItem | LiftedItem | LinesItem, Field(discriminator="kind")
]
MADE: dict[str, type[LetteringItem | ShapeItem | DrawnItem | BorderItem | LiftedItem | LinesItem]] = {
    "lettering": LetteringItem, "shape": ShapeItem, "drawn": DrawnItem, "border": BorderItem, "lifted": LiftedItem,
    "lines": LinesItem,
}
OWN = ("name", "place", "part", "hidden", "origin")  # fields that every item has, and a person can change


class MakeSettings(StepSettings):
    """The settings of the steps that concern all items together."""

    arrange: ArrangeSettings = Field(default_factory=ArrangeSettings, title="Arrange")
    layers: LayersSettings = Field(default_factory=LayersSettings, title="Layers")
    sheets: SheetsSettings = Field(default_factory=SheetsSettings, title="Sheets")
    check: CheckSettings = Field(default_factory=CheckSettings, title="Check")


class JobDocument(StepSettings):
    """All that belongs to one make. minted: how many ids of items and layers have been given out."""

    version: Literal[5] = Field(5, title="Version of the document's form")
    name: Name = Field(title="The job's name")
    items: tuple[Item, ...] = Field(min_length=1, max_length=MOST_ITEMS, title="Items of the job, lowest first")
    make: MakeSettings = Field(default_factory=MakeSettings, title="Settings of the make")
    minted: int = Field(1, ge=1, le=MOST_IDS, title="How many ids have been given out")

    @model_validator(mode="after")
    def _is_whole(self) -> Self:
        ids = [item.id for item in self.items]
        if len(set(ids)) != len(ids):
            raise ValueError("two items have the same id")
        records = [record.id for record in self.make.layers.records]
        cloths = [variant.id for variant in self.make.layers.variants]
        if len(set(records)) != len(records) or len(set(cloths)) != len(cloths):
            raise ValueError("two layers or cloths have the same id")
        if any(int(name.rsplit("-", 1)[1]) > self.minted for name in (*ids, *records, *cloths)):
            raise ValueError("an id was used that has not been given out")
        return self

    @property
    def pictures(self) -> tuple[PictureItem, ...]:
        """The items that are pictures, lowest first."""
        return tuple(item for item in self.items if isinstance(item, PictureItem))

    @property
    def files(self) -> dict[str, str]:
        """The digests of all files that items are made from, with the names that they came in by."""
        own = [item if isinstance(item, PictureItem) else item.made for item in self.items
               if isinstance(item, PictureItem | LinesItem)]
        return {one.source: one.file_name for one in own}

    def item(self, item_id: str) -> Item:
        """Raises: NotFoundError."""
        for item in self.items:
            if item.id == item_id:
                return item
        raise NotFoundError("This item is no longer part of the job.", code="item_missing", item=item_id)

    def picture(self, item_id: str) -> PictureItem:
        """Raises: NotFoundError where it is no picture, or not there."""
        item = self.item(item_id)
        if not isinstance(item, PictureItem):
            raise NotFoundError("This item is no picture.", code="no_picture", item=item_id)
        return item

    def for_cloth(self, cloth: str) -> JobDocument:
        """The same make for another cloth, by the id of its variant; itself for none. Raises: NotFoundError."""
        if not cloth:
            return self
        for variant in self.make.layers.variants:
            if variant.id == cloth:
                layers = self.make.layers.with_fields({
                    "base": variant.base, "cloth": variant.cloth, "bare": variant.bare, "reverse": variant.reverse, "variants":
                    ()})
                document = self._with(make=self.make.with_fields({"layers": layers}))
                for one in variant.tones:
                    if any(item.id == one.item for item in self.pictures):
                        # Dark lines on dark cloth are the cloth's own.
                        lines = {"drawn_top": False} if is_dark(variant.base) else {}
                        document = document.with_step(one.item, "colours", {"bare": one.tones, **lines})
                return document
        raise NotFoundError("This cloth is no longer part of the job.", code="cloth_missing", cloth=cloth)

    def with_item(self, item_id: str, **fields: Any) -> JobDocument:
        """With fields of one item replaced. Raises: NotFoundError, pydantic.ValidationError."""
        changed = self.item(item_id).with_fields(fields)
        return self._with(items=tuple(changed if item.id == item_id else item for item in self.items))

    def with_changed_item(self, item_id: str, fields: dict[str, Any]) -> JobDocument:
        """With some of an item's own fields changed; of its place, part and what it is made from only what is given.

        Raises: NotFoundError, SettingsError for a field that is none of these, pydantic.ValidationError.
        """
        item = self.item(item_id)
        whole: dict[str, Any] = {}
        for name, value in fields.items():
            if name not in (*OWN, "made") or (name == "made" and isinstance(item, PictureItem)):
                raise SettingsError(f"“{name[:40]}” is nothing that can be changed of an item.", code="settings", place=name[:40])
            before = getattr(item, name)
            whole[name] = before.with_fields(value) if isinstance(before, StepSettings) and isinstance(value, dict) else value
        return self.with_item(item_id, **whole)

    def with_step(self, item_id: str, step: StepName, settings: dict[str, Any]) -> JobDocument:
        """With fields of one step of one picture replaced. Raises: NotFoundError, pydantic.ValidationError."""
        return self.with_item(item_id, course=self.picture(item_id).course.changed(step, settings))

    def with_make_step(self, step: MakeStep, settings: dict[str, Any]) -> JobDocument:
        """With fields of one step of the make replaced; layers without an id are given one.

        Raises: pydantic.ValidationError.
        """
        minted = self.minted
        if step == "layers":
            settings, minted = _with_ids(_with_known_ids(settings, self.make.layers.records), minted)
        _refuse_more_ids(minted)
        changed = getattr(self.make, step).with_fields(settings)
        return self._with(make=self.make.with_fields({step: changed}), minted=minted)

    def with_picture(self, source: str, file_name: str, name: str, course: CourseSettings) -> JobDocument:
        """With one more picture, above the others. Raises: SettingsError."""
        self._refuse_more(1)
        item = PictureItem(id=f"picture-{self.minted + 1}", name=name, source=source, file_name=file_name, course=course)
        return self._with(items=(*self.items, item), minted=self.minted + 1)

    def with_made(self, kind: str, name: str, fields: dict[str, Any]) -> JobDocument:
        """With one more item that is no picture, above the others; a border below them. fields: made, place, part.

        Raises: SettingsError, pydantic.ValidationError.
        """
        self._refuse_more(1)
        item = MADE[kind].model_validate({**fields, "id": f"{kind}-{self.minted + 1}", "name": name})
        items = (item, *self.items) if kind == "border" else (*self.items, item)
        return self._with(items=items, minted=self.minted + 1)

    def with_copies(self, item_id: str, places: list[dict[str, Any]]) -> JobDocument:
        """With copies of an item right above it, each with some fields of its place changed.

        Raises: NotFoundError, SettingsError.
        """
        self._refuse_more(len(places))
        item = self.item(item_id)
        copies = [item.with_fields({"id": f"{item.kind}-{self.minted + number}", "place": item.place.with_fields(place)})
                  for number, place in enumerate(places, 1)]
        at = self.items.index(item) + 1
        return self._with(items=(*self.items[:at], *copies, *self.items[at:]), minted=self.minted + len(places))

    def _refuse_more(self, more: int) -> None:
        if len(self.items) + more > MOST_ITEMS:
            raise SettingsError(f"A job holds at most {MOST_ITEMS} items. Begin a new one.", code="too_many_items",
                                most=MOST_ITEMS)
        _refuse_more_ids(self.minted + more)

    def without_item(self, item_id: str) -> JobDocument:
        """Without one item; what was said about its layers goes with it, and what was lifted out of it.

        Raises: NotFoundError; SettingsError for the last.
        """
        self.item(item_id)
        lifted = next((item.id for item in self.items if isinstance(item, LiftedItem) and item.made.source == item_id), None)
        if lifted is not None:
            return self.without_item(lifted).without_item(item_id)
        if len(self.items) == 1:
            raise SettingsError("This is the only item of the job; take the job off the shelf instead.", code="last_item")
        records = []
        for record in self.make.layers.records:
            anchors = tuple(anchor for anchor in record.anchors if anchor.item != item_id)
            if anchors:
                records.append(record.with_fields({"anchors": anchors}))
        layers = self.make.layers.with_fields({
            "records": tuple(records), "order": tuple(name for name in self.make.layers.order if name in
                                                      {record.id for record in records}),
        })
        return self._with(items=tuple(_without(item, item_id) for item in self.items if item.id != item_id),
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
            for own in OWN:
                yield ("items", item.id, own), getattr(item, own)
            if not isinstance(item, PictureItem):
                for name in type(item.made).model_fields:
                    yield ("items", item.id, "made", name), getattr(item.made, name)
                continue
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


def _without(item: Item, gone: str) -> Item:
    """An item that holds on to another one no more."""
    targets = tuple(target for target in item.part.targets if target.item != gone)
    if targets != item.part.targets:
        item = item.with_fields({"part": item.part.with_fields({"targets": targets})})
    if isinstance(item, BorderItem) and gone in item.made.around:
        item = item.with_fields({"made": item.made.with_fields({"around": tuple(n for n in item.made.around if n != gone)})})
    return item


def _with_known_ids(settings: dict[str, Any], known: Sequence[LayerRecord]) -> dict[str, Any]:
    """Give records without an id that of the one which has the first of their colours: the change was sent before its id was
    known, and what has been joined or parted since keeps its place."""
    ids = {(anchor.item, anchor.colour): record.id for record in known for anchor in record.anchors}
    taken = {record["id"] for record in settings.get("records", ()) if isinstance(record, dict) and record.get("id")}
    records: list[Any] = []
    renamed: dict[str, str] = {}
    for number, record in enumerate(settings.get("records", ())):
        if isinstance(record, dict) and not record.get("id"):
            first = next((one for one in record.get("anchors", ()) if isinstance(one, dict)), {})
            own = ids.get((str(first.get("item")), str(first.get("colour"))))
            if own is not None and own not in taken:
                record = {**record, "id": own}
                renamed[f"-{number}"] = own
                taken.add(own)
        records.append(record)
    if not renamed:
        return settings
    return {name: records if name == "records" else _renamed(value, renamed) for name, value in settings.items()}


def _refuse_more_ids(minted: int) -> None:
    if minted > MOST_IDS:
        raise SettingsError("This job has no numbers left for further items or layers. Bring its pictures into a new job.",
                            code="ids_used_up", most=MOST_IDS)


def _with_ids(settings: dict[str, Any], minted: int) -> tuple[dict[str, Any], int]:
    """Give the layers and cloths without an id one, and layers their places in the order it: there they are named by a dash and
    their number in the list; so they are where pairs of them meet, and where they are left bare."""
    settings = dict(settings)
    named: dict[str, str] = {}
    for field, stem in (("records", "layer"), ("variants", "cloth")):
        records = []
        for number, record in enumerate(settings.get(field, ())):
            if isinstance(record, dict) and not record.get("id"):
                minted += 1
                record = {**record, "id": f"{stem}-{minted}"}
                if field == "records":
                    named[f"-{number}"] = record["id"]
            records.append(record)
        if field in settings:
            settings[field] = records
    if named:
        settings = {name: value if name == "records" else _renamed(value, named) for name, value in settings.items()}
    return settings, minted


def _renamed(value: Any, named: dict[str, str]) -> Any:
    """With names replaced wherever they stand in lists and objects."""
    if isinstance(value, str):
        return named.get(value, value)
    if isinstance(value, list | tuple):
        return [_renamed(one, named) for one in value]
    if isinstance(value, dict):
        return {name: _renamed(one, named) for name, one in value.items()}
    return value


def new_document(source: str, file_name: str, name: str, course: CourseSettings, make: MakeSettings | None = None) -> JobDocument:
    """A job of one picture. Raises: pydantic.ValidationError."""
    item = PictureItem(id="picture-1", name=name, source=source, file_name=file_name, course=course)
    return JobDocument(name=name, items=(item,), make=make or MakeSettings())
