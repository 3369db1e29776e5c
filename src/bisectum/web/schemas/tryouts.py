"""What the API says about try-outs."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from bisectum.core.tryouts.recipes import Recipe, Treatment, Why
from bisectum.services.compute import Tried
from bisectum.web.schemas.jobs import FieldNames


class TreatmentBody(BaseModel):
    """Fields of the Colours, the Lines and the Pieces step; those not given stay as they are in the job."""

    colours: dict[FieldNames, Any] = Field(default_factory=dict, max_length=40)
    lines: dict[FieldNames, Any] = Field(default_factory=dict, max_length=10)
    pieces: dict[FieldNames, Any] = Field(default_factory=dict, max_length=10)

    def treatment(self) -> Treatment:
        return Treatment(self.colours, self.lines, self.pieces)


class RecipesAsked(TreatmentBody):
    """like_this: variants of the treatment given, in place of all kinds."""

    like_this: bool = False


class RecipeOut(BaseModel):
    """A treatment worth trying. code: names it; values: of its sentence; why: what makes it the first choice, else empty."""

    code: str
    values: dict[str, Any]
    colours: dict[str, Any]
    lines: dict[str, Any]
    pieces: dict[str, Any]
    why: Why | Literal[""]

    @classmethod
    def of(cls, recipe: Recipe) -> RecipeOut:
        return cls(code=recipe.code, values=recipe.values, colours=recipe.treatment.colours, lines=recipe.treatment.lines,
                   pieces=recipe.treatment.pieces, why=recipe.why)


class TriedLayer(BaseModel):
    colour: str
    path: str


class TriedOut(BaseModel):
    """A try-out as it is drawn, from the lowest layer; frame: left, top, width and height of the picture on its page, mm;
    likeness: 0 to 100; minutes: to cut and to weed."""

    width_mm: float
    height_mm: float
    frame: tuple[float, float, float, float]
    layers: list[TriedLayer]
    likeness: float
    minutes: float
    pieces: int
    windows: int
    nodes: int
    cut_mm: float

    @classmethod
    def of(cls, tried: Tried) -> TriedOut:
        work = tried.work
        return cls(width_mm=tried.width_mm, height_mm=tried.height_mm, frame=tried.frame,
                   likeness=tried.likeness, minutes=work.minutes,
                   layers=[TriedLayer(colour=colour, path=path) for colour, path in tried.layers],
                   pieces=work.pieces, windows=work.windows, nodes=work.nodes, cut_mm=work.cut_mm)
