from __future__ import annotations

from typing import Annotated

from pydantic import Field, StringConstraints, model_validator

from bisectum.core.model.stock import KINDS, StockKind
from bisectum.core.patterns import ITEM_ID
from bisectum.core.steps.settings import StepSettings

MOST_IGNORED = 2000


class MaterialLimits(StepSettings):
    """What can be cut and weeded of a material, with the blade one has."""

    kind: StockKind = Field(title="The material")
    width_mm: float = Field(ge=0, le=20, title="Narrowest part", json_schema_extra={"unit": "mm", "step": 0.1})
    gap_mm: float = Field(ge=0, le=20, title="Narrowest gap", json_schema_extra={"unit": "mm", "step": 0.1})
    piece_mm2: float = Field(ge=0, le=400, title="Smallest piece and window", json_schema_extra={"unit": "mm²", "step": 0.5})
    radius_mm: float = Field(ge=0, le=5, title="Tightest bend", json_schema_extra={"unit": "mm", "step": 0.05})


FROM_MEMORY: tuple[MaterialLimits, ...] = (  # common practice, no source; a person changes them to what their machine does
    MaterialLimits(kind="adhesive vinyl", width_mm=0.8, gap_mm=0.4, piece_mm2=1, radius_mm=0.1),
    MaterialLimits(kind="heat-transfer vinyl", width_mm=1, gap_mm=0.5, piece_mm2=1.5, radius_mm=0.15),
    MaterialLimits(kind="flock", width_mm=1.5, gap_mm=0.8, piece_mm2=3, radius_mm=0.3),
    MaterialLimits(kind="card", width_mm=2, gap_mm=1, piece_mm2=4, radius_mm=0.3),
    MaterialLimits(kind="other", width_mm=1, gap_mm=0.5, piece_mm2=1, radius_mm=0.15),
)


class Ignored(StepSettings):
    """A finding that a person does not want to hear of. It is found again by its code, its layer and its place: in shares of the
    width of an item's picture, or in the item's own mm; without an item by its code and layer alone."""

    code: Annotated[str, StringConstraints(max_length=40, pattern=r"^[a-z_]+$")] = Field(title="What it is")
    layer: Annotated[str, StringConstraints(max_length=20)] = Field("", title="The layer's id, or its colour where it has none")
    item: str | None = Field(None, pattern=ITEM_ID, title="The item it is at")
    x: float = Field(0, ge=-1e5, le=1e5, title="Where, across")
    y: float = Field(0, ge=-1e5, le=1e5, title="Where, down")


class CheckSettings(StepSettings):
    """The Check step: what can be cut, and what is known already."""

    limits: tuple[MaterialLimits, ...] = Field((), max_length=len(KINDS), title="Limits of materials that the person has changed")
    evening_min: float = Field(120, ge=10, le=2000, title="How long cutting and weeding may take",
                               json_schema_extra={"unit": "min", "step": 10})
    ignored: tuple[Ignored, ...] = Field((), max_length=MOST_IGNORED, title="Findings that are left as they are")

    @model_validator(mode="after")
    def _once_each(self) -> CheckSettings:
        kinds = [own.kind for own in self.limits]
        if len(set(kinds)) != len(kinds):
            raise ValueError("a material has its limits once")
        return self

    def of(self, kind: StockKind) -> MaterialLimits:
        """The limits of a material."""
        return next(own for own in (*self.limits, *FROM_MEMORY) if own.kind == kind)
