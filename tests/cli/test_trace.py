"""The command line, once as a process of its own, else in this one."""

from __future__ import annotations

import contextlib
import io
import json
import subprocess
import sys
from pathlib import Path
from unittest.mock import patch

import numpy as np
import pytest
import resvg_py
from fastapi.testclient import TestClient
from numpy.typing import NDArray
from PIL import Image

from bisectum.cli.main import main
from bisectum.core.formats.svg.read import read_svg

PROGRAM = Path(sys.executable).with_name("bisectum")


def run(*arguments: object) -> subprocess.CompletedProcess[str]:
    words, out, errors, code = [str(PROGRAM), *map(str, arguments)], io.StringIO(), io.StringIO(), 0
    with patch.object(sys, "argv", words), contextlib.redirect_stdout(out), contextlib.redirect_stderr(errors):
        try:
            main()
        except SystemExit as end:
            code = int(end.code or 0)
    return subprocess.CompletedProcess(words, code, out.getvalue(), errors.getvalue())


def test_a_picture_becomes_a_file_and_a_report(tmp_path: Path, pictures: Path) -> None:
    out, report = tmp_path / "out.svg", tmp_path / "report.json"
    done = run("trace", pictures / "lighthouse.png", "-o", out, "--width", "4in", "--build", "flush", "--report", report)
    assert (done.returncode, done.stderr) == (0, "")
    told, drawing = json.loads(report.read_text()), read_svg(out.read_text())
    assert drawing.width_mm == pytest.approx(101.6)
    assert told["pieces"] == sum(len(layer.areas) for layer in drawing.layers)
    assert told["nodes"] == sum(layer.nodes for layer in drawing.layers)
    assert [layer["colour"] for layer in told["layers"]] == [layer.fill for layer in drawing.layers]
    assert {"#2f5d7c", "#f4ead6", "#c8452f", "#26323d", "#f2c14e"} <= {entry["colour"] for entry in told["palette"]}
    assert sum(entry["share"] for entry in told["palette"]) == pytest.approx(1, abs=1e-3)
    assert {"decode", "background", "colours", "lines", "layers", "write", "read_back"} <= set(told["seconds"])
    again = tmp_path / "again.svg"
    words = [PROGRAM, "trace", pictures / "lighthouse.png", "-o", again, "--width", "101.6mm", "--build", "flush"]
    process = subprocess.run(words, capture_output=True, timeout=60)
    assert (process.returncode, process.stderr) == (0, b"")
    assert again.read_bytes() == out.read_bytes()


def test_files_from_one_picture_lie_in_register(tmp_path: Path, pictures: Path) -> None:
    for number, colours in enumerate(("auto", "2")):
        assert (
            run(
                "trace",
                pictures / "lighthouse.png",
                "-o",
                tmp_path / f"{number}.svg",
                "--page",
                "picture",
                "--colours",
                colours,
                "--width",
                "120mm",
            ).returncode
            == 0
        )
    one, other = (read_svg((tmp_path / f"{number}.svg").read_text()) for number in range(2))
    assert (one.width_mm, one.height_mm) == (other.width_mm, other.height_mm) == (120, pytest.approx(120 * 887 / 600, abs=1e-3))
    assert len(other.layers) == 3  # and the paper that is shut in


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["trace", "nowhere.png", "-o", "out.svg"], "no file"),
        (["trace", __file__, "-o", "out.svg"], "no picture"),
        (["trace", "LIGHT", "-o", "out.svg", "--width", "wide"], "no size"),
        (["trace", "LIGHT", "-o", "out.svg", "--width", "9000mm"], "width_mm"),
        (["trace", "LIGHT", "-o", "out.svg", "--colours", "many"], "number of colours"),
        (["trace", "LIGHT", "-o", "out.svg", "--colours", "99"], "colours.count"),
        (["trace", "LIGHT", "-o", "out.svg", "--background", "white"], "#ffffff"),
        (["trace", "LIGHT", "-o", "nowhere/out.svg"], "cannot be written"),
        (["trace", "LIGHT", "-o", "out.svg", "--build", "sideways"], "sideways"),
        (["trace", "LIGHT"], "--out"),
        (["trace", "LIGHT", "-o", "out.svg", "--thinnest", "thin"], "no size"),
    ],
)
def test_what_does_not_work_is_one_sentence_and_exit_2(tmp_path: Path, pictures: Path, arguments: list[str], words: str) -> None:
    arguments = [
        str(pictures / "lighthouse.png") if a == "LIGHT" else str(tmp_path / a) if a.endswith(".svg") else a for a in arguments
    ]
    done = run(*arguments)
    assert done.returncode == 2
    assert done.stdout == ""
    assert words in done.stderr and done.stderr.count("\n") == 1
    assert not list(tmp_path.iterdir())


def test_a_cleared_picture_is_written(tmp_path: Path, pictures: Path) -> None:
    gone = {}
    for enclosed in ("none", "all"):
        out = tmp_path / f"{enclosed}.png"
        done = run("clear", pictures / "lighthouse.png", "-o", out, "--enclosed", enclosed, "--crop", "0,0,600,500")
        assert (done.returncode, done.stderr) == (0, "")
        image = Image.open(out)
        assert image.size == (600, 500) and image.mode == "RGBA"
        assert image.getpixel((5, 5))[3] == 0
        gone[enclosed] = sum(image.getchannel("A").histogram()[:128])
    assert gone["all"] - gone["none"] == pytest.approx(2 * (544 + 288), rel=0.15)  # between the railings


@pytest.mark.parametrize(
    "options",
    [["--crop", "1,2,3"], ["--crop", "9000,0,50,50"], ["--background", "plum"], ["--reach", "90"]],
    ids=" ".join,
)
def test_what_cannot_be_cleared_is_said_in_one_sentence(tmp_path: Path, pictures: Path, options: list[str]) -> None:
    done = run("clear", pictures / "lighthouse.png", "-o", tmp_path / "out.png", *options)
    assert done.returncode == 2 and len(done.stderr.strip().splitlines()) == 1
    assert not (tmp_path / "out.png").exists()


def test_the_palette_is_printed_with_what_is_at_hand(tmp_path: Path, pictures: Path) -> None:
    drawer = tmp_path / "drawer.csv"
    drawer.write_text("name,kind,colour,width_mm,height_mm,on_hand\r\nHarbour blue,card,#2f5d7c,305,305,no\r\n", newline="")
    picture = pictures / "lighthouse.png"
    done = run("colours", picture, "--json", "--stocks", drawer, "--colour", "#f2c14e=Lamp", "--enclosed", "all")
    rows = {row["colour"]: row for row in json.loads(done.stdout)}
    assert set(rows) == {"#2f5d7c", "#f4ead6", "#c8452f", "#26323d", "#f2c14e"}
    assert rows["#f2c14e"]["name"] == "Lamp" and rows["#f2c14e"]["pinned"] and rows["#f2c14e"]["pieces"] == 2
    assert rows["#2f5d7c"]["stock"] == "Harbour blue" and rows["#2f5d7c"]["difference"] == 0
    assert sum(row["share"] for row in rows.values()) == pytest.approx(1, abs=1e-4)
    table = run("colours", picture, "--stocks", drawer).stdout
    assert "Harbour blue (same, 0.0, to be bought)" in table and "#c8452f" in table
    report = tmp_path / "report.json"
    run("trace", picture, "-o", tmp_path / "out.svg", "--stocks", drawer, "--report", report)
    assert json.loads(report.read_text())["palette"][0]["stock"] == "Harbour blue"
    drawer.write_text("name,kind,colour,width_mm,height_mm\r\nHarbour blue,card,blue,305,305\r\n", newline="")
    wrong = run("colours", picture, "--stocks", drawer)
    assert wrong.returncode == 2 and wrong.stderr.startswith("Line 2 of the stocks")


def test_try_outs_are_files_and_a_table(tmp_path: Path, badge: bytes) -> None:
    picture, out = tmp_path / "badge.png", tmp_path / "tried" / "here"
    picture.write_bytes(badge)
    done = run("try-outs", picture, "-o", out, "--width", "60mm", "--json")
    rows = json.loads(done.stdout)
    assert done.returncode == 0 and len(rows) >= 5
    for row in (row for row in rows if "reason" not in row):
        drawing = read_svg((out / f"{row['name']}.svg").read_text())
        assert row["pieces"] == sum(len(layer.areas) for layer in drawing.layers) and 0 <= row["likeness"] <= 100
    assert "likeness" in run("try-outs", picture, "-o", out).stdout.splitlines()[0]
    wrong = run("try-outs", picture, "-o", picture)
    assert wrong.returncode == 2 and "no folder" in wrong.stderr


def test_rules_on_pieces_and_what_the_report_says_of_them(tmp_path: Path, pictures: Path) -> None:
    report = tmp_path / "report.json"
    done = run("trace", pictures / "berth-sign.png", "-o", tmp_path / "sign.svg", "--width", "160mm", "--smallest", "6mm2",
               "--window", "2mm2", "--thinnest", "0.4mm", "--fill", "around", "--join", "0.3mm", "--bridge", "1.5mm", "--report",
               report)
    assert done.returncode == 0, done.stderr
    told = json.loads(report.read_text())
    assert told["gone"]["small"] > 3 and told["pieces"] < 45
    assert "nothing_to_bridge" in told["warnings"] and told["bridges"] == 0
    assert read_svg((tmp_path / "sign.svg").read_text()).width_mm == 160


def test_a_plan_is_folded_perforated_or_drawn(tmp_path: Path) -> None:
    plan = Path(__file__).resolve().parents[2] / "demo/pictures/lunch-crate.png"
    found = {}
    for name, asked in {"folded": (), "drawn": ("--lines", "centre", "--score", "none"), "filled": ("--lines", "filled"),
                        "dashed": ("--perforate", "3mm,2mm")}.items():
        done = run("trace", plan, "-o", tmp_path / f"{name}.svg", "--report", tmp_path / f"{name}.json", *asked)
        assert done.returncode == 0, done.stderr
        found[name] = json.loads((tmp_path / f"{name}.json").read_text())
    assert found["folded"]["kind"] == "line-drawing" and found["folded"]["strokes"] == {"score": 5}
    assert set(found["drawn"]["strokes"]) == {"draw"} and found["drawn"]["pieces"] == 0
    assert not found["filled"]["strokes"] and found["filled"]["pieces"] > 2
    assert set(found["dashed"]["strokes"]) == {"cut"} and found["dashed"]["strokes"]["cut"] > 60
    refused = run("trace", plan, "-o", tmp_path / "no.svg", "--perforate", "3mm")
    assert refused.returncode == 2 and "perforation" in refused.stderr


def test_sheets_for_a_mat_are_files_of_their_own(tmp_path: Path, pictures: Path) -> None:
    out, report = tmp_path / "sign.svg", tmp_path / "report.json"
    sign = pictures / "berth-sign.png"
    asked = ("--width", "480mm", "--mat", "12x12", "--split", "straight", "--mirror", "--report", report)
    done = run("trace", sign, "-o", out, *asked)
    assert (done.returncode, done.stderr) == (0, "")
    told = json.loads(report.read_text())
    files = sorted(tmp_path.glob("*-sheet-*.svg"))
    assert len(files) == len(told["sheets"]) > len(told["layers"]) and all("mirrored" in path.name for path in files)
    assert all(read_svg(path.read_text()).width_mm == pytest.approx(304.8) for path in files)
    for mat, sentence in (("13x", "is no mat"), ("12x12", "larger mat, or split")):
        refused = run("trace", sign, "-o", tmp_path / f"{mat}.svg", "--width", "480mm", "--mat", mat)
        assert refused.returncode == 2 and sentence in refused.stderr
        assert (tmp_path / f"{mat}.svg").exists() == (mat == "12x12") and not list(tmp_path.glob(f"{mat}-sheet*"))
    for copies in ("0", "10000"):
        refused = run("trace", pictures / "berth-sign.png", "-o", tmp_path / "no.svg", "--mat", "12x12", "--copies", copies)
        assert refused.returncode == 2 and "ask for 1 to 500" in refused.stderr


def test_every_option_acts_on_all_files_or_is_refused(tmp_path: Path, pictures: Path) -> None:
    sign = pictures / "berth-sign.png"
    for options in (("--copies", "3"), ("--layout", "ganged", "--split", "calm")):
        refused = run("trace", sign, "-o", tmp_path / "no.svg", *options)
        assert refused.returncode == 2 and refused.stderr.startswith(options[0]) and not (tmp_path / "no.svg").exists()
    pairs = (("--reach 9", "--background keep"), ("--lap 1mm", "--build flush"), ("--hairline", "--outline"),
             ("--perforate 3mm,2mm", "--score none"), ("--treatment dark", "--kind clip-art"))
    for one, other in pairs:
        refused = run("trace", sign, "-o", tmp_path / "no.svg", *one.split(), *other.split())
        assert refused.returncode == 2 and f"{one.split()[0]} does nothing beside {other}" in refused.stderr
    both = ("--per", "layer", "--mat", "12x12", "--hairline")
    for name, options in (("plain", ()), ("flipped", ("--mirror",)), ("both", both)):
        done = run("trace", sign, "-o", tmp_path / f"{name}.svg", "--width", "150mm", *options)
        assert (done.returncode, done.stderr) == (0, "")
    plain, flipped = (rendered(tmp_path / f"{name}.svg") for name in ("plain", "flipped"))
    assert (np.abs(plain - flipped[:, ::-1]) > 60).mean() < 0.005 < 0.05 < (np.abs(plain - flipped) > 60).mean()
    layers = len(read_svg((tmp_path / "plain.svg").read_text()).layers)
    names = [path.name for path in tmp_path.glob("both-*.svg")]
    assert sum("-sheet-" in name for name in names) == layers == sum(name.endswith("-hairline.svg") for name in names)
    assert all(not read_svg((tmp_path / name).read_text()).layers for name in names)


def rendered(path: Path) -> NDArray[np.int64]:
    """As resvg paints it, (H, W, 4)."""
    data = bytes(resvg_py.svg_to_bytes(svg_string=path.read_text(), width=600, height=600, dpi=96))
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGBA")).astype(np.int64)


def test_endings_say_which_file_and_parts_go_beside_it(tmp_path: Path, pictures: Path) -> None:
    picture = str(pictures / "lighthouse.png")
    for name, begins in (("a.pdf", b"%PDF"), ("a.png", b"\x89PNG"), ("a.plt", b"IN;"), ("a.dxf", b"  0")):
        assert run("trace", picture, "-o", str(tmp_path / name), "--width", "60mm").returncode == 0
        assert (tmp_path / name).read_bytes().startswith(begins)
    done = run("trace", picture, "-o", str(tmp_path / "b.svg"), "--width", "60mm", "--per", "layer", "--hairline")
    beside = sorted(path.name for path in tmp_path.glob("*-hairline.svg"))
    assert done.returncode == 0 and len(beside) == 6 and beside[0].startswith("b-1-")
    wrong = run("trace", picture, "-o", str(tmp_path / "b.abc"))
    assert wrong.returncode == 2 and ".svg" in wrong.stderr and not (tmp_path / "b.abc").exists()


def test_files_are_checked_and_cut_and_a_bundle_has_its_build_sheet(tmp_path: Path, pictures: Path) -> None:
    out = tmp_path / "a.svg"
    assert run("trace", str(pictures / "lighthouse.png"), "-o", str(out), "--width", "60mm").returncode == 0
    report = json.loads(run("check", str(out), "--material", "card", "--json").stdout)
    assert {row["code"] for row in report["findings"]} >= {"small_window"} or report["findings"]
    assert report["work"]["pieces"] == 16
    assert "pieces" in run("check", str(out)).stdout
    layer = tmp_path / "b.svg"
    assert run("trace", str(pictures / "lighthouse.png"), "-o", str(layer), "--width", "60mm", "--outline").returncode == 0
    cut = json.loads(run("cut", str(layer), "--json").stdout)
    assert cut["pieces"] == 1 and cut["seconds"] > 1
    for command in ("check", "cut"):
        assert run(command, str(pictures / "lighthouse.png")).returncode == 2
    assert run("build-sheet", str(out), "-o", str(tmp_path / "a.pdf")).returncode == 2


def test_a_bundle_is_worked_without_a_screen(tmp_path: Path, pictures: Path, client: TestClient) -> None:
    job = client.post("/api/jobs", files={"picture": ("lighthouse.png", (pictures / "lighthouse.png").read_bytes())}).json()
    bundle = tmp_path / "job.zip"
    bundle.write_bytes(client.get(f"/api/jobs/{job['id']}/bundle").content)
    done = run("make", bundle, "-o", tmp_path / "out", "--format", "svg", "--format", "pdf")
    assert done.returncode == 0 and done.stdout.split() == ["lighthouse.svg", "lighthouse.pdf"]
    assert (tmp_path / "out/lighthouse.svg").read_bytes() == client.get(f"/api/jobs/{job['id']}/files/svg").content
    assert len(run("make", bundle, "-o", tmp_path / "sheets", "--per", "sheet").stdout.split()) == 6
    assert run("build-sheet", bundle, "-o", tmp_path / "a.pdf").returncode == 0
    assert (tmp_path / "a.pdf").read_bytes().startswith(b"%PDF")
