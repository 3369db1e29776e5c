from __future__ import annotations

from typing import Literal, Self

from pydantic import Field, model_validator

from bisectum.core.model.stroke import Role
from bisectum.core.steps.settings import StepSettings

CorrectionKind = Literal["move", "handle", "add", "remove", "corner", "smooth", "straight", "arc", "join", "round"]
GOING_SOMEWHERE = ("move", "handle", "straight", "arc", "join")
MOST_CORRECTIONS = 2000
MOST_PARTS = 20
OF_STROKES = ("drawn", "score", "close_gaps_mm", "roles")


class Correction(StepSettings):
    """One correction by hand. Places are shares of the picture's width, from its upper left corner, y down.

    move: the node at x, y goes to to_x, to_y. handle: so does the handle at x, y. add: a node on the line at x, y.
    remove, corner, smooth: that node. straight, arc, join: the span from the node at x, y to the one at to_x, to_y becomes
    a line, an arc, or is cut out and its ends joined smoothly. round: the corner at x, y gets a radius.
    """

    kind: CorrectionKind = Field(title="What is done")
    x: float = Field(ge=-1, le=2, title="Where, across")
    y: float = Field(ge=-60, le=60, title="Where, down")
    to_x: float | None = Field(None, ge=-1, le=2, title="Where to, across")
    to_y: float | None = Field(None, ge=-60, le=60, title="Where to, down")
    radius_mm: float | None = Field(None, ge=0.05, le=200, title="Radius of a rounded corner")

    @model_validator(mode="after")
    def _is_whole(self) -> Self:
        if self.kind in GOING_SOMEWHERE and (self.to_x is None or self.to_y is None):
            raise ValueError("this correction says where to")
        if self.kind == "round" and self.radius_mm is None:
            raise ValueError("a rounded corner has a radius")
        return self


class Looks(StepSettings):
    """How closely and how smoothly cut lines follow the picture."""

    closeness_mm: float = Field(
        0.1, ge=0.005, le=2, title="How far a cut line may stray from the edge it follows",
        json_schema_extra={"unit": "mm", "step": 0.005},
    )
    corner_deg: float = Field(
        28, ge=10, le=80, title="A bend sharper than this is a corner", json_schema_extra={"unit": "°", "step": 1}
    )
    smoothing_mm: float = Field(
        0, ge=0, le=3, title="Wobbles shorter than this are evened out between corners",
        json_schema_extra={"unit": "mm", "step": 0.05},
    )
    simplify_mm: float = Field(
        0, ge=0, le=2, title="How far lines may move to have fewer nodes", json_schema_extra={"unit": "mm", "step": 0.01}
    )


class LinesPart(Looks):
    """A part of the picture with settings of its own: a box, in shares of the picture's width, like corrections."""

    x: float = Field(ge=-1, le=2, title="Left edge")
    y: float = Field(ge=-60, le=60, title="Top edge")
    width: float = Field(gt=0, le=3, title="Width of the part")
    height: float = Field(gt=0, le=60, title="Height of the part")


class StrokeRole(StepSettings):
    """What the stroke at a place is to be, whatever it was taken for. The place: shares of the picture's width."""

    x: float = Field(ge=-2, le=3, title="A place on it, across")
    y: float = Field(ge=-60, le=60, title="A place on it, down")
    role: Role = Field(title="Cut, folded, drawn, or left out")


class LinesSettings(Looks):
    """The Lines step. Those from `drawn` on concern drawings in strokes only."""

    drawn: Literal["auto", "filled", "centre"] = Field(
        "auto", title="Strokes as filled pieces, or by their middles; where it is auto, a plan with dashed folds by its middles"
    )
    score: Literal["auto", "none"] = Field("auto", title="Whether outlines are cut and dashes folded, or all strokes are drawn")
    close_gaps_mm: float = Field(
        0, ge=0, le=20, title="Ends of strokes that lie nearer are joined", json_schema_extra={"unit": "mm", "step": 0.1}
    )
    roles: tuple[StrokeRole, ...] = Field((), max_length=MOST_CORRECTIONS, title="What single strokes are to be")

    parts: tuple[LinesPart, ...] = Field((), max_length=MOST_PARTS, title="Parts of the picture with settings of their own")
    corrections: tuple[Correction, ...] = Field((), max_length=MOST_CORRECTIONS, title="Corrections by hand, in their order")
