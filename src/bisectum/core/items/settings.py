"""What the items of a make are made from that are no pictures. Lengths in mm, angles in degrees, y down."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, StringConstraints

from bisectum.core.patterns import HEX, ITEM_ID, SHA256
from bisectum.core.steps.settings import StepSettings

LONGEST_TEXT = 300
SMALLEST_MM, LARGEST_MM = 0.5, 2000.0
MOST_NODES = 400
FormName = Literal["rectangle", "ellipse", "polygon", "star", "heart", "drop", "tag", "bar", "frame"]
Text = Annotated[str, StringConstraints(min_length=1, max_length=LONGEST_TEXT, pattern=r"\S")]


class MadeSettings(StepSettings):
    """What an item is made from. SIZES: its fields that grow with it; IS_FREE: its width and height are its own to choose."""

    SIZES: ClassVar[tuple[str, ...]] = ()
    IS_FREE: ClassVar[bool] = False

    def scaled(self, factor: float) -> Any:
        """The same of another size. Raises: pydantic.ValidationError where it would become too small or too large."""
        return self.with_fields({name: getattr(self, name) * factor for name in self.SIZES})

    def sized(self, fx: float, fy: float) -> Any:
        """The same, so many times as wide and high; what is not free keeps its proportions here. Raises: as scaled."""
        return self.scaled(fx)


class Lettering(MadeSettings):
    """Words that are cut: shaped with the font's own rules, and welded."""

    SIZES = ("capital_mm", "spacing_mm", "radius_mm")

    text: Text = Field(title="The words; a new line where Enter was pressed")
    font: str = Field("nunito", pattern=r"^([a-z][a-z0-9-]{1,40}|[0-9a-f]{64})$", title="A shipped font, or one of one's own")
    capital_mm: float = Field(15, ge=1, le=500, title="Height of the capitals", json_schema_extra={"unit": "mm", "step": 0.5})
    spacing_mm: float = Field(0, ge=-20, le=100, title="More or less room between letters", json_schema_extra={"unit": "mm"})
    line_height: float = Field(1.0, ge=0.4, le=4, title="Distance of lines, against the font's own")
    align: Literal["left", "middle", "right"] = Field("middle", title="How lines stand under each other")
    along: Literal["straight", "arc", "circle"] = Field("straight", title="What the words run along")
    radius_mm: float = Field(40, ge=3, le=LARGEST_MM, title="Radius of the arc or circle", json_schema_extra={"unit": "mm"})
    inward: bool = Field(False, title="Along the lower side, heads to the middle")
    colour: str = Field("#1c2a44", pattern=HEX, title="The colour it is cut from")


class Shape(MadeSettings):
    """A shape of a set size. hole_mm: of a tag; band_mm: of a frame; inner: of a star; points: of a polygon or star."""

    SIZES = ("width_mm", "height_mm", "corner_mm", "hole_mm", "band_mm")
    IS_FREE = True

    def sized(self, fx: float, fy: float) -> Any:
        scaled = self.scaled(min(fx, fy))
        return scaled.with_fields({"width_mm": self.width_mm * fx, "height_mm": self.height_mm * fy})

    form: FormName = Field("rectangle", title="Which shape")
    width_mm: float = Field(40, ge=SMALLEST_MM, le=LARGEST_MM, title="Width", json_schema_extra={"unit": "mm"})
    height_mm: float = Field(30, ge=SMALLEST_MM, le=LARGEST_MM, title="Height", json_schema_extra={"unit": "mm"})
    corner_mm: float = Field(0, ge=0, le=1000, title="Radius of its corners", json_schema_extra={"unit": "mm"})
    points: int = Field(5, ge=3, le=60, title="How many corners or points")
    inner: float = Field(0.45, ge=0.1, le=0.95, title="How far the points of a star go in")
    hole_mm: float = Field(5, ge=0, le=200, title="Width of a tag's hole", json_schema_extra={"unit": "mm"})
    band_mm: float = Field(4, ge=0.2, le=500, title="Width of a frame's band", json_schema_extra={"unit": "mm"})
    colour: str = Field("#b3432b", pattern=HEX, title="The colour it is cut from")


class Node(StepSettings):
    """A node of a drawn line: its place, and its two handles as ways from it. mm from the middle of the drawing."""

    x: float = Field(ge=-LARGEST_MM, le=LARGEST_MM, title="Across")
    y: float = Field(ge=-LARGEST_MM, le=LARGEST_MM, title="Down")
    in_x: float = Field(0, ge=-LARGEST_MM, le=LARGEST_MM, title="Handle towards the node before, across")
    in_y: float = Field(0, ge=-LARGEST_MM, le=LARGEST_MM, title="Handle towards the node before, down")
    out_x: float = Field(0, ge=-LARGEST_MM, le=LARGEST_MM, title="Handle towards the next node, across")
    out_y: float = Field(0, ge=-LARGEST_MM, le=LARGEST_MM, title="Handle towards the next node, down")


class Drawn(MadeSettings):
    """A line drawn by hand: closed, a piece; open, a line of a set width."""

    IS_FREE = True

    def scaled(self, factor: float) -> Any:
        return self.sized(factor, factor).with_fields({"width_mm": self.width_mm * factor})

    def sized(self, fx: float, fy: float) -> Any:
        """Its nodes move apart; a line stays as wide as it is."""
        grows = {name: fx if name.endswith("x") else fy for name in Node.model_fields}
        return self.with_fields({"nodes": tuple(
            node.with_fields({name: getattr(node, name) * factor for name, factor in grows.items()}) for node in self.nodes)})

    nodes: tuple[Node, ...] = Field(min_length=2, max_length=MOST_NODES, title="Its nodes")
    closed: bool = Field(True, title="A closed piece, or a line")
    width_mm: float = Field(2, ge=0.2, le=100, title="Width of a line", json_schema_extra={"unit": "mm"})
    colour: str = Field("#2f6b4f", pattern=HEX, title="The colour it is cut from")


class Border(MadeSettings):
    """An outline at a distance around other items."""

    SIZES = ("distance_mm", "bridge_mm")

    around: tuple[Annotated[str, StringConstraints(pattern=ITEM_ID)], ...] = Field(
        (), max_length=50, title="The items it goes around; none named: all")
    distance_mm: float = Field(3.175, ge=0.05, le=50, title="How far it goes beyond them",
                               json_schema_extra={"unit": "mm", "step": 0.05})
    corners: Literal["round", "sharp", "flat"] = Field("round", title="What its corners are like")
    windows: Literal["keep", "drop"] = Field("drop", title="Whether what lies open within stays open")
    bridge_mm: float = Field(0, ge=0, le=50, title="Gaps narrower than this are closed", json_schema_extra={"unit": "mm"})
    colour: str = Field("#ffffff", pattern=HEX, title="The colour it is cut from")


class Lines(MadeSettings):
    """Lines of a vector file, at their real size times `factor`."""

    SIZES = ("factor",)

    source: str = Field(pattern=SHA256, title="The file")
    file_name: str = Field("", max_length=80, title="What the file was called")
    unit: Literal["mm", "cm", "in"] | None = Field(None, title="What its numbers are where the file does not say; else mm")
    close_open: bool = Field(False, title="Open lines are closed straight, and become pieces")
    factor: float = Field(1, ge=0.001, le=1000, title="How much larger than in the file")
    colour: str = Field("#1c2a44", pattern=HEX, title="The colour they are shown in where only one is shown")


class Lifted(MadeSettings):
    """Pieces that were lifted out of a picture. They follow it: traced anew, they are new; sized, they are sized, times
    `factor`."""

    source: str = Field(pattern=ITEM_ID, title="The picture they came from")
    factor: float = Field(1, ge=0.05, le=20, title="How much larger they are than in the picture")
    colour: str = Field("#1c2a44", pattern=HEX, title="The colour they are shown in where only one is shown")
