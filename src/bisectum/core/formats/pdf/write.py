"""PDF of real size: a layer of the file (optional content group) for each layer, and spot colours for what a machine follows.

Areas are filled in the layer's colour. Cut lines and folds are hairlines in spot colours (Separation) with names of their
own, which overprint, so that whoever prints the page prints nothing of them and whoever cuts it finds them by name.
Coordinates in the content are mm, y down, as everywhere; one matrix turns them into points. ISO 32000-1:2008, 8.6.6.4
(Separation), 8.11 (optional content). """

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from pypdf import PdfWriter
from pypdf.generic import (
    ArrayObject,
    BooleanObject,
    DecodedStreamObject,
    DictionaryObject,
    EncodedStreamObject,
    FloatObject,
    IndirectObject,
    NameObject,
    NumberObject,
    TextStringObject,
)

from bisectum.core.formats.lines import CUT_SPOT
from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Artwork, Layer
from bisectum.core.model.stroke import Role

PT_PER_MM = 72 / 25.4
HAIRLINE_PT = 0.25
SPOTS: dict[Role, tuple[str, tuple[float, float, float, float]]] = {
    "cut": (CUT_SPOT, (0.0, 1.0, 0.0, 0.0)), "score": ("Fold line", (1.0, 0.0, 0.0, 0.0))}
"""Name and look of the spot colours, C M Y K; what is drawn has its layer's colour."""
DECIMALS = 5


@dataclass(frozen=True, slots=True, eq=False)
class Picture:
    """What is printed below all layers. pixels : (H, W, 4) uint8, straight alpha; matrix : (2, 3), from px to mm on the page."""

    pixels: NDArray[np.uint8]
    matrix: NDArray[np.float64]


def write_pdf(artwork: Artwork, title: str, spot: str = CUT_SPOT, pictures: Sequence[Picture] = ()) -> bytes:
    """The artwork as PDF, above pictures if there are any. spot: what the spot colour of cut lines is called."""
    writer = PdfWriter()
    page = writer.add_blank_page(artwork.width * PT_PER_MM, artwork.height * PT_PER_MM)
    groups = [_group(writer, layer.name) for layer in artwork.layers]
    resources = DictionaryObject({
        NameObject("/Properties"): DictionaryObject({NameObject(f"/L{n}"): group for n, group in enumerate(groups)}),
        NameObject("/ColorSpace"): DictionaryObject({
            NameObject(f"/S{role}"): _spot(writer, spot if role == "cut" else name, look)
            for role, (name, look) in SPOTS.items()}),
        NameObject("/ExtGState"): DictionaryObject({NameObject("/Over"): _overprint()}),
    })
    parts = [f"{_short(PT_PER_MM, 10)} 0 0 {_short(-PT_PER_MM, 10)} 0 {_short(artwork.height * PT_PER_MM, 7)} cm"]
    resources[NameObject("/XObject")] = DictionaryObject(
        {NameObject(f"/P{number}"): _image(writer, picture.pixels) for number, picture in enumerate(pictures)})
    for number, picture in enumerate(pictures):
        parts += _placed(picture, number)
    for number, layer in enumerate(artwork.layers):
        parts += [f"/OC /L{number} BDC", *_of_layer(layer), "EMC"]
    page[NameObject("/Resources")] = resources
    content = DecodedStreamObject()
    content.set_data("\n".join(parts).encode("ascii"))
    page[NameObject("/Contents")] = writer._add_object(content.flate_encode())
    order = ArrayObject(groups)
    writer.root_object[NameObject("/OCProperties")] = DictionaryObject({
        NameObject("/OCGs"): order, NameObject("/D"): DictionaryObject({NameObject("/Order"): order, NameObject("/ON"): order})})
    writer.metadata = {"/Title": title, "/Producer": "Bisectum"}
    whole = io.BytesIO()
    writer.write(whole)
    return whole.getvalue()


def _of_layer(layer: Layer) -> Iterator[str]:
    """Pieces filled one by one by the even-odd rule, then its strokes."""
    colour = " ".join(_short(value / 255, 4) for value in layer.rgb)
    if layer.pieces:
        yield f"{colour} rg"
    for piece in layer.pieces:
        pen = _PdfPen()
        for ring in piece.rings:
            ring.draw(pen)
        yield from (*pen.parts, "f*")
    for role in ("cut", "score", "draw"):
        own = [stroke for stroke in layer.strokes if stroke.role == role]
        if own:
            yield f"q {_short(HAIRLINE_PT / PT_PER_MM, 5)} w"
            yield f"/Over gs /S{role} CS 1 SCN" if role in SPOTS else f"{colour} RG"
            for stroke in own:
                yield from (*_drawn(stroke.path), "S")
            yield "Q"


def _drawn(path: Path) -> list[str]:
    pen = _PdfPen()
    path.draw(pen)
    return pen.parts


class _PdfPen:
    """Path operators of PDF."""

    def __init__(self) -> None:
        self.parts: list[str] = []

    def move_to(self, x: float, y: float) -> None:
        self.parts.append(f"{_short(x)} {_short(y)} m")

    def line_to(self, x: float, y: float) -> None:
        self.parts.append(f"{_short(x)} {_short(y)} l")

    def curve_to(self, x1: float, y1: float, x2: float, y2: float, x: float, y: float) -> None:
        self.parts.append(" ".join(_short(value) for value in (x1, y1, x2, y2, x, y)) + " c")

    def close_path(self) -> None:
        self.parts.append("h")

    def end_path(self) -> None:
        return None


def _short(value: float, decimals: int = DECIMALS) -> str:
    text = f"{value:.{decimals}f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def _group(writer: PdfWriter, name: str) -> IndirectObject:
    group = DictionaryObject({NameObject("/Type"): NameObject("/OCG"), NameObject("/Name"): TextStringObject(name)})
    return writer._add_object(group)


def _overprint() -> DictionaryObject:
    yes = BooleanObject(True)
    return DictionaryObject({NameObject("/OP"): yes, NameObject("/op"): yes, NameObject("/OPM"): NumberObject(1)})


def _spot(writer: PdfWriter, name: str, look: tuple[float, float, float, float]) -> ArrayObject:
    """A spot colour; on screens it is shown as a mixture."""
    none, full = ArrayObject([FloatObject(0)] * 4), ArrayObject([FloatObject(part) for part in look])
    tint = DictionaryObject({
        NameObject("/FunctionType"): NumberObject(2), NameObject("/Domain"): ArrayObject([NumberObject(0), NumberObject(1)]),
        NameObject("/C0"): none, NameObject("/C1"): full, NameObject("/N"): NumberObject(1)})
    return ArrayObject([NameObject("/Separation"), NameObject("/" + name), NameObject("/DeviceCMYK"), writer._add_object(tint)])


def _image(writer: PdfWriter, pixels: NDArray[np.uint8]) -> IndirectObject:
    mask = _channel(pixels[..., 3], "/DeviceGray")
    colours = _channel(pixels[..., :3], "/DeviceRGB")
    colours[NameObject("/SMask")] = writer._add_object(mask)
    return writer._add_object(colours)


def _channel(pixels: NDArray[np.uint8], space: str) -> EncodedStreamObject:
    stream = DecodedStreamObject()
    stream.set_data(np.ascontiguousarray(pixels).tobytes())
    packed = stream.flate_encode()
    packed.update({
        NameObject("/Type"): NameObject("/XObject"), NameObject("/Subtype"): NameObject("/Image"),
        NameObject("/Width"): NumberObject(pixels.shape[1]), NameObject("/Height"): NumberObject(pixels.shape[0]),
        NameObject("/ColorSpace"): NameObject(space), NameObject("/BitsPerComponent"): NumberObject(8)})
    return packed


def _placed(picture: Picture, name: int) -> list[str]:
    """A picture is drawn in a square of one from the lower left; its rows run down."""
    height, width = picture.pixels.shape[:2]
    a, b = picture.matrix[:, 0] * width, picture.matrix[:, 1] * height
    x, y = picture.matrix[:, 2] + b
    numbers = (a[0], a[1], -b[0], -b[1], x, y)
    return ["q", " ".join(_short(value) for value in numbers) + " cm", f"/P{name} Do", "Q"]
