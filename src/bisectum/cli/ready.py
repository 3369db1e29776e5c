"""Commands about what is ready: files of whoever made them, and bundles of jobs."""

from __future__ import annotations

import json
from enum import StrEnum
from pathlib import Path
from typing import Annotated

import typer

from bisectum.cli.sentence import one_sentence

app = typer.Typer()


class Material(StrEnum):
    adhesive = "adhesive vinyl"
    pressed = "heat-transfer vinyl"
    flock = "flock"
    card = "card"
    other = "other"


FileArgument = Annotated[Path, typer.Argument(help="The file, SVG or DXF.")]
MaterialOption = Annotated[Material, typer.Option(help="What it is cut from.")]
JsonOption = Annotated[bool, typer.Option("--json", help="As JSON, for programs.")]


@app.command()
def check(
    file: FileArgument, material: MaterialOption = Material.adhesive,
    mat: Annotated[str | None, typer.Option(help="What it is cut on: 12x12, 12x24, A4, A3, roll-457 or 320x450mm.")] = None,
    as_json: JsonOption = False,
) -> None:
    """What to look at before a file is cut: lines that cross or leave the page, narrow places, small pieces; and how much work it
    is."""
    from bisectum.services.check import check_file, sentences_of
    from bisectum.services.files import read_file

    with one_sentence():
        report = check_file(read_file(file), material.value, mat)
        typer.echo(json.dumps(report, indent=2, ensure_ascii=False) if as_json else sentences_of(report))


@app.command()
def cut(file: FileArgument, material: MaterialOption = Material.adhesive, as_json: JsonOption = False) -> None:
    """Let the stand-in cutter cut a file: what comes free, how long it takes. Also HPGL."""
    from bisectum.core.progress import SILENT
    from bisectum.services.cut import cut_file
    from bisectum.services.files import read_file

    with one_sentence():
        _, report = cut_file(read_file(file), material.value, SILENT)
        if as_json:
            typer.echo(json.dumps(report, indent=2))
            return
        typer.echo(f"{report['pieces']} pieces come free, {report['waste']} windows are weeded out of them. "
                   f"{report['cut_mm'] / 1000:.2f} m are cut and {report['travel_mm'] / 1000:.2f} m travelled in "
                   f"{report['seconds']:.0f} s.")


class FileKind(StrEnum):
    svg = "svg"
    pdf = "pdf"
    dxf = "dxf"
    dxfcurves = "dxfcurves"
    hpgl = "hpgl"
    png = "png"


class FilePer(StrEnum):
    make = "make"
    layer = "layer"
    sheet = "sheet"


@app.command()
def make(
    bundle: Annotated[Path, typer.Argument(help="A job or a whole shelf, taken out as a bundle.")],
    out: Annotated[Path, typer.Option("-o", "--out", help="The folder that the files go to.")],
    formats: Annotated[list[FileKind] | None, typer.Option("--format", help="Kind of file; may be repeated.")] = None,
    per: Annotated[FilePer, typer.Option(help="A file for each make, layer or sheet.")] = FilePer.make,
) -> None:
    """Work a bundle without a screen, and write its files."""
    from bisectum.services.bundle_work import files_of_bundle
    from bisectum.services.files import make_folder, read_file, write_whole

    with one_sentence():
        make_folder(out)
        kinds = tuple(kind.value for kind in formats or [FileKind.svg])
        for name, data in files_of_bundle(read_file(bundle), kinds, per.value):
            write_whole(out / name, data)
            typer.echo(name)


@app.command()
def verify(data: Annotated[Path | None, typer.Option(help="The data folder; one's own by itself.")] = None) -> None:
    """Look through all that a data folder keeps; says what is damaged and what to do. Nothing is changed."""
    from bisectum.services.verify import damage_in
    from bisectum.settings import Settings

    with one_sentence():
        found = list(damage_in(data or Settings().data))
        typer.echo("\n".join(found) or "All that is kept is whole.")
        raise typer.Exit(1 if found else 0)


class PaperSize(StrEnum):
    a4 = "a4"
    letter = "letter"


@app.command("build-sheet")
def build_sheet(
    bundle: Annotated[Path, typer.Argument(help="A job, taken out as a bundle.")],
    out: Annotated[Path, typer.Option("-o", "--out", help="Where the PDF goes.")],
    paper: Annotated[PaperSize, typer.Option(help="The paper it is printed on.")] = PaperSize.a4,
) -> None:
    """Print a build sheet: layers, sheets, what it takes, and how it comes together."""
    from bisectum.services.build_sheet import build_sheet_of_bundle
    from bisectum.services.files import read_file, write_whole

    with one_sentence():
        write_whole(out, build_sheet_of_bundle(read_file(bundle), paper.value))
