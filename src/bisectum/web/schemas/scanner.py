"""What the API says of the scanner, and takes from whoever scans."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Self

from pydantic import BaseModel, Field, model_validator

from bisectum.services.decode import WORKING_PX
from bisectum.services.scanner import DPIS
from bisectum.stand_ins.scanner.glass import HEIGHT_MM, WIDTH_MM, Original

LEAST_MM = 2.0


class OriginalOut(BaseModel):
    """Something on the glass, mm. own: put there by the person."""

    name: str
    x: float
    y: float
    width: float
    height: float
    own: bool


class GlassOut(BaseModel):
    """The scanner: its glass in mm, what lies on it, the resolutions it has, and how many pixels are the most."""

    width: float
    height: float
    originals: list[OriginalOut]
    dpis: list[int]
    most_px: int

    @classmethod
    def of(cls, originals: Sequence[Original]) -> Self:
        own = [OriginalOut(name=one.name, x=one.x, y=one.y, width=one.width, height=one.height, own=one.own) for one in originals]
        return cls(width=WIDTH_MM, height=HEIGHT_MM, originals=own, dpis=list(DPIS), most_px=WORKING_PX)


class Scanning(BaseModel):
    """An area of the glass, mm, and how it is scanned."""

    x: float = Field(ge=0, le=WIDTH_MM)
    y: float = Field(ge=0, le=HEIGHT_MM)
    width: float = Field(ge=LEAST_MM, le=WIDTH_MM)
    height: float = Field(ge=LEAST_MM, le=HEIGHT_MM)
    dpi: int = Field(ge=DPIS[0], le=DPIS[-1])
    grey: bool = False

    @model_validator(mode="after")
    def _on_the_glass(self) -> Self:
        if self.x + self.width > WIDTH_MM + 0.01 or self.y + self.height > HEIGHT_MM + 0.01:
            raise ValueError(f"The area lies beyond the glass, which is {WIDTH_MM:.0f} × {HEIGHT_MM:.0f} mm.")
        return self
