"""The command line: the same work without a screen. Exit code 0, or 2 with one sentence on stderr."""

from __future__ import annotations

import json
import os
import sys
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from bisectum.cli import ready
from bisectum.cli.sentence import one_sentence
from bisectum.cli.together import refuse_ruled_out
from bisectum.core.errors import SettingsError
from bisectum.services.networks import hand_in_networks

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False,
                  help="Turns pictures into layered cut files.")

if TYPE_CHECKING:
    from bisectum.core.model.stock import Stock
    from bisectum.services.export import Wanted
    from bisectum.services.trace import Traced


class Kind(StrEnum):
    auto = "auto"
    clip_art = "clip-art"
    photo = "photo"
    line_drawing = "line-drawing"
    handwriting = "handwriting"
    screenshot = "screenshot"


class Treatment(StrEnum):
    colours = "colours"
    lightness = "lightness"
    dark = "dark"
    line_shade = "line_shade"
    stencil = "stencil"
    silhouette = "silhouette"


class Page(StrEnum):
    artwork = "artwork"
    picture = "picture"


class Build(StrEnum):
    auto = "auto"
    whole = "whole"
    lapped = "lapped"
    flush = "flush"
    stacked = "stacked"


class Fill(StrEnum):
    around = "around"
    open = "open"


class Drawn(StrEnum):
    auto = "auto"
    centre = "centre"
    filled = "filled"


class Score(StrEnum):
    auto = "auto"
    none = "none"


class Keep(StrEnum):
    all = "all"
    largest = "largest"


class Layout(StrEnum):
    in_place = "in-place"
    ganged = "ganged"


class Split(StrEnum):
    none = "none"
    straight = "straight"
    calm = "calm"


class Per(StrEnum):
    make = "make"
    layer = "layer"
    sheet = "sheet"


class Enclosed(StrEnum):
    auto = "auto"
    all = "all"
    none = "none"


ColourOption = Annotated[
    list[str] | None,
    typer.Option("--colour", help="A colour that must be in the palette, as #RRGGBB or #RRGGBB=Name; may be repeated."),
]
StocksOption = Annotated[Path | None, typer.Option(help="Materials at hand, as CSV; layers are matched to them.")]
ReachOption = Annotated[float | None, typer.Option(help="How far from its colour the background reaches, 0.4 to 40.")]
EnclosedOption = Annotated[Enclosed, typer.Option(help="Background shut in by the drawing: what is certain goes, all, or none.")]
CropOption = Annotated[str | None, typer.Option(help="The part to use, as left,top,width,height in pixels.")]
BackgroundOption = Annotated[str, typer.Option(help="auto, border, subject, keep, or the colour as #RRGGBB.")]


@app.command()
def trace(
    context: typer.Context,
    picture: Annotated[Path, typer.Argument(help="The picture: PNG, JPEG, HEIC, WebP, GIF, BMP, TIFF or AVIF.")],
    out: Annotated[Path, typer.Option("-o", "--out", help="Where the file goes: .svg, .dxf, .plt, .pdf or .png.")],
    kind: Annotated[Kind, typer.Option(help="Kind of picture.")] = Kind.auto,
    background: BackgroundOption = "auto",
    reach: ReachOption = None,
    enclosed: EnclosedOption = Enclosed.auto,
    crop: CropOption = None,
    treatment: Annotated[Treatment, typer.Option(help="What a photograph becomes.")] = Treatment.colours,
    colours: Annotated[str, typer.Option(help="auto, or how many layers, the background not among them.")] = "auto",
    colour: ColourOption = None,
    stocks: StocksOption = None,
    width: Annotated[str | None, typer.Option(help="Finished width, such as 120mm or 4.7in.")] = None,
    page: Annotated[Page, typer.Option(help="What the page shows and the width measures.")] = Page.artwork,
    build: Annotated[Build, typer.Option(help="How layers meet.")] = Build.auto,
    lap: Annotated[str, typer.Option(help="How far a lapped layer reaches under those above, such as 0.5mm.")] = "0.5mm",
    lines: Annotated[Drawn, typer.Option(help="Strokes by their middles, or as filled pieces.")] = Drawn.auto,
    score: Annotated[Score, typer.Option(help="Fold along dashes and cut outlines, or draw all strokes.")] = Score.auto,
    perforate: Annotated[str | None, typer.Option(help="Folds as cuts and gaps, such as 3mm,2mm.")] = None,
    closeness: Annotated[str, typer.Option(help="How far a cut line may stray, such as 0.1mm.")] = "0.1mm",
    smallest: Annotated[str | None, typer.Option(help="Smallest piece, such as 2mm2; by itself where not given.")] = None,
    window: Annotated[str | None, typer.Option(help="Smallest window; as the smallest piece where not given.")] = None,
    thinnest: Annotated[str | None, typer.Option(help="Hairs and necks thinner than this go, such as 0.8mm.")] = None,
    fill: Annotated[Fill, typer.Option(help="What fills the place of what goes.")] = Fill.around,
    keep: Annotated[Keep, typer.Option(help="Which pieces of each colour stay.")] = Keep.all,
    join: Annotated[str | None, typer.Option(help="Gaps within a layer narrower than this are closed, such as 0.5mm.")] = None,
    thicken: Annotated[str | None, typer.Option(help="What is thinner is made so wide, such as 0.8mm.")] = None,
    bridge: Annotated[str | None, typer.Option(help="Width of bridges that tie all pieces together, such as 1.5mm.")] = None,
    mat: Annotated[str | None, typer.Option(help="Sheets, a file each, for 12x12, 12x24, A4, A3, roll-457 or 320x450mm.")] = None,
    layout: Annotated[Layout | None, typer.Option(help="Layers at the same place, or all of a stock close together.")] = None,
    copies: Annotated[int, typer.Option(help="How often it lies on the sheets.")] = 1,
    mirror: Annotated[bool, typer.Option("--mirror", help="Mirrored: for the back of glass, for heat transfer.")] = False,
    split: Annotated[Split, typer.Option(help="Split what is larger than the mat.")] = Split.none,
    per: Annotated[Per, typer.Option(help="Further files beside it: one for each layer, or for each sheet.")] = Per.make,
    hairline: Annotated[bool, typer.Option("--hairline", help="Lines instead of filled areas.")] = False,
    outline: Annotated[bool, typer.Option("--outline", help="Only the line around everything.")] = False,
    report: Annotated[Path | None, typer.Option(help="Where a report goes, as JSON.")] = None,
) -> None:
    """Turn a picture into layers to be cut, as a file, and into a file a sheet where a mat is named."""
    from bisectum.core.course import CourseSettings
    from bisectum.core.job import MakeSettings
    from bisectum.services.files import read_file
    from bisectum.services.trace import trace as traced
    with one_sentence():
        refuse_ruled_out(context)
        data = read_file(picture)
        settings = CourseSettings.model_validate({
            "picture": {"width_mm": _length(width) or None, "measured": page.value, "crop": _crop(crop, data)},
            "background": _background(background) | {"reach": reach, "enclosed": enclosed.value},
            "colours": {"kind": kind.value, "treatment": treatment.value, "count": _count(colours), "pins": _pins(colour)},
            "lines": {"closeness_mm": _length(closeness), "drawn": lines.value, "score": score.value},
            "pieces": {"smallest_mm2": _area(smallest), "smallest_window_mm2": _area(window or smallest),
                       "thinnest_mm": _length(thinnest), "fill": fill.value, "keep": keep.value, "join_mm": _length(join),
                       "thicken_mm": _length(thicken), "bridge_mm": _length(bridge)},
        })
        make = MakeSettings.model_validate({"layers": {"build": build.value, "lap_mm": _length(lap)} | _perforation(perforate),
                                            "sheets": _sheets(mat, layout, copies, mirror, split, per)})
        on_sheets, wanted = mat is not None or per == Per.sheet, _wanted(out, per, hairline, outline)
        _write(traced(data, picture.stem, settings, make, _drawer(stocks), on_sheets, wanted, mirror, out.stem), out, report)


ENDINGS = {".svg": "svg", ".dxf": "dxf", ".plt": "hpgl", ".hpgl": "hpgl", ".pdf": "pdf", ".png": "png"}


def _wanted(out: Path, per: Per, hairline: bool, outline: bool) -> Wanted:
    """What a file is to hold, by its ending. Raises: SettingsError."""
    from bisectum.core.formats.selection import Selection
    from bisectum.services.export import Wanted

    kind = ENDINGS.get(out.suffix.lower())
    if kind is None:
        raise SettingsError(f"“{out.name[:80]}” has no ending that says what it is to be: {', '.join(ENDINGS)}.")
    drawn = "outline" if outline else "hairline" if hairline else "filled"
    return Wanted(kind, "layer" if per == Per.layer else "make", selection=Selection(drawn))  # type: ignore[arg-type]


def _drawer(stocks: Path | None) -> tuple[Stock, ...]:
    """Materials at hand, none where no file is named. Raises: InputError."""
    from bisectum.core.formats.stocks_csv import parse_stocks
    from bisectum.services.files import read_file

    return tuple(parse_stocks(read_file(stocks))) if stocks is not None else ()


def _write(traced: Traced, out: Path, report: Path | None) -> None:
    """The file, those beside it, and the report. Raises: SettingsError where files for sheets are missing, once all others are
    written."""
    from bisectum.services.files import write_whole

    files = [(out, traced.data), *((out.parent / name, data) for name, data in traced.beside)]
    files += [(report, (_as_json(traced.report) + "\n").encode())] if report is not None else []
    for path, data in files:
        write_whole(path, data)
    if traced.trouble:
        raise traced.trouble


def _as_json(value: object) -> str:
    return json.dumps(value, indent=2, ensure_ascii=False)


def _sheets(mat: str | None, layout: Layout | None, copies: int, mirror: bool, split: Split, per: Per) -> dict[str, object]:
    """Raises: SettingsError where there is no such mat, the copies are too few or too many, or something is asked of sheets
    where there are none."""
    from bisectum.core.steps.sheets.carriers import carrier_named
    from bisectum.core.steps.sheets.settings import MOST_COPIES

    if not 1 <= copies <= MOST_COPIES:
        raise SettingsError(f"{copies} copies cannot be laid out; ask for 1 to {MOST_COPIES}.", code="copies", most=MOST_COPIES)
    asked = {"--layout": layout is not None, "--copies": copies > 1, "--split": split != Split.none}
    if mat is None and per != Per.sheet and any(asked.values()):
        names = " and ".join(name for name, is_asked in asked.items() if is_asked)
        raise SettingsError(f"{names} is about sheets, and no mat was named; add --mat, such as --mat 12x12.", code="no_mat")
    carrier = {"carrier": carrier_named(mat)} if mat is not None else {}
    return carrier | {"layout": (layout or Layout.in_place).value.replace("-", "_"), "copies": copies,
                      "mirror": "all" if mirror else "by_material", "split": split.value}


def _perforation(text: str | None) -> dict[str, str | float]:
    """Raises: SettingsError, InputError."""
    from bisectum.core.units import parse_length_mm

    if text is None:
        return {}
    parts = text.split(",")
    if len(parts) != 2:
        raise SettingsError(f"“{text}” is no perforation; write the length of a cut and of a gap, such as 3mm,2mm.")
    cut, gap = (parse_length_mm(part.strip()) for part in parts)
    return {"folds": "perforate", "perforation_mm": cut, "perforation_gap_mm": gap}


def _area(text: str | None) -> float | None:
    """mm²; none is found by itself. Raises: InputError."""
    from bisectum.core.units import parse_area_mm2

    return parse_area_mm2(text) if text is not None else None


def _length(text: str | None) -> float:
    """mm; none is no rule at all. Raises: InputError."""
    from bisectum.core.units import parse_length_mm

    return parse_length_mm(text) if text is not None else 0.0


def _background(text: str) -> dict[str, str]:
    if text in ("auto", "border", "subject", "keep"):
        return {"mode": text}
    if len(text) != 7 or not text.startswith("#"):
        raise SettingsError(f"“{text}” is no background; write auto, border, subject, keep, or a colour such as #ffffff.")
    return {"mode": "colour", "colour": text}


def _crop(text: str | None, data: bytes) -> dict[str, float] | None:
    """The box in shares of the picture's width."""
    from bisectum.services.decode import decode

    if text is None:
        return None
    parts = text.split(",")
    if len(parts) != 4 or not all(part.strip().lstrip("-").isdigit() for part in parts):
        raise SettingsError(f"“{text}” is no part of a picture; write left,top,width,height in pixels, such as 20,10,400,300.")
    width_px = decode(data)[1].width
    left, top, width, height = (int(part) / width_px for part in parts)
    if width <= 0 or height <= 0:
        raise SettingsError(f"“{text}” has no size; width and height are above zero.")
    return {"x": left, "y": top, "width": width, "height": height}


@app.command()
def clear(
    picture: Annotated[Path, typer.Argument(help="The picture: PNG, JPEG, HEIC, WebP, GIF, BMP, TIFF or AVIF.")],
    out: Annotated[Path, typer.Option("-o", "--out", help="Where the cleared picture goes, a PNG with transparency.")],
    background: BackgroundOption = "auto",
    reach: ReachOption = None,
    enclosed: EnclosedOption = Enclosed.auto,
    crop: CropOption = None,
) -> None:
    """Take the background away and write the picture with transparency."""
    from bisectum.core.course import CourseSettings
    from bisectum.services.clear import cleared_png
    from bisectum.services.files import read_file, write_whole

    with one_sentence():
        data = read_file(picture)
        settings = CourseSettings.model_validate({
            "picture": {"crop": _crop(crop, data)},
            "background": _background(background) | {"reach": reach, "enclosed": enclosed.value},
        })
        write_whole(out, cleared_png(data, settings))


@app.command()
def colours(
    picture: Annotated[Path, typer.Argument(help="The picture: PNG, JPEG, HEIC, WebP, GIF, BMP, TIFF or AVIF.")],
    kind: Annotated[Kind, typer.Option(help="Kind of picture.")] = Kind.auto,
    background: BackgroundOption = "auto",
    reach: ReachOption = None,
    enclosed: EnclosedOption = Enclosed.auto,
    count: Annotated[str, typer.Option("--colours", help="auto, or how many, the background not among them.")] = "auto",
    colour: ColourOption = None,
    stocks: StocksOption = None,
    as_json: Annotated[bool, typer.Option("--json", help="Write JSON in place of a table.")] = False,
) -> None:
    """Print the palette of a picture: each colour with its share, its pieces and what is at hand for it."""
    from bisectum.core.course import CourseSettings
    from bisectum.services.files import read_file
    from bisectum.services.palette import as_table, palette_of

    with one_sentence():
        settings = CourseSettings.model_validate({
            "background": _background(background) | {"reach": reach, "enclosed": enclosed.value},
            "colours": {"kind": kind.value, "count": _count(count), "pins": _pins(colour)},
        })
        rows = palette_of(read_file(picture), settings, _drawer(stocks))
        typer.echo(_as_json(rows) if as_json else as_table(rows))


@app.command("try-outs")
def try_outs(
    picture: Annotated[Path, typer.Argument(help="The picture: PNG, JPEG, HEIC, WebP, GIF, BMP, TIFF or AVIF.")],
    out: Annotated[Path, typer.Option("-o", "--out", help="The folder that the try-outs go to, an SVG each.")],
    width: Annotated[str, typer.Option(help="Finished width, such as 150mm or 6in.")] = "150mm",
    background: BackgroundOption = "auto",
    crop: CropOption = None,
    as_json: Annotated[bool, typer.Option("--json", help="Write JSON in place of a table.")] = False,
) -> None:
    """Treat a picture in many ways side by side, each with its likeness and its work."""
    from bisectum.core.course import CourseSettings
    from bisectum.core.units import parse_length_mm
    from bisectum.services.files import make_folder, read_file, write_whole
    from bisectum.services.tryouts import as_table, try_outs_of

    with one_sentence():
        data = read_file(picture)
        settings = CourseSettings.model_validate({
            "picture": {"width_mm": parse_length_mm(width), "crop": _crop(crop, data)}, "background": _background(background)})
        rows = []
        for tried in try_outs_of(data, settings):
            rows.append(tried.row)
            if tried.svg:
                make_folder(out)
                write_whole(out / f"{tried.name}.svg", tried.svg)
        typer.echo(_as_json(rows) if as_json else as_table(rows))


def _pins(texts: list[str] | None) -> list[dict[str, str]]:
    return [_pin(text) for text in texts or ()]


def _pin(text: str) -> dict[str, str]:
    value, _, name = text.partition("=")
    if len(value) != 7 or not value.startswith("#"):
        raise SettingsError(f"“{text}” is no colour; write #RRGGBB or #RRGGBB=Name, such as #f2c14e=Lamp.")
    return {"colour": value.lower(), "name": name.strip()}


def _count(text: str) -> int | None:
    if text == "auto":
        return None
    if not text.isdigit():
        raise SettingsError(f"“{text}” is no number of colours; write auto or a whole number such as 5.")
    return int(text)


@app.command()
def serve(
    demo: Annotated[bool, typer.Option("--demo", help="Put the demo jobs on an empty shelf.")] = False,
    port: Annotated[int | None, typer.Option(min=1, max=65535, help="Port on this computer.")] = None,
    data: Annotated[Path | None, typer.Option(help="Folder for jobs and pictures.")] = None,
) -> None:
    """Start the bench on this computer; open the address it prints in a browser."""
    # The command line stands beside the web in the house; the composition root is looked up when it is needed.
    from importlib import import_module

    with one_sentence():
        import_module("bisectum.main").serve(demo=demo, port=port, data=data)


app.registered_commands += ready.app.registered_commands


def main() -> None:
    # OpenBLAS would start a thread a core for matrices of three rows.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    hand_in_networks()
    try:
        sys.exit(app(standalone_mode=False))
    except typer.Exit as ended:
        sys.exit(ended.exit_code)
    except typer.Abort:
        sys.exit(130)
    except Exception as error:
        # Wrong options; the class that says so is private to the library, its method is not.
        said = getattr(error, "format_message", None)
        if said is None:
            raise
        typer.echo(said().rstrip(".") + ". Add --help for what can be asked for.", err=True)
        sys.exit(2)
