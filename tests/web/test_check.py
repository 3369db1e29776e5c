"""The cut check, repairs, the cutter and files through the API."""

from __future__ import annotations

import io
import zipfile
from typing import Any

import pypdfium2
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from bisectum.core.formats.svg.read import read_svg
from bisectum.services.bundle import opened
from tests.web.test_api import bring
from tests.web.test_sheets import changed


def checked(client: TestClient, job: dict[str, Any]) -> dict[str, Any]:
    answer = client.get(f"/api/jobs/{job['id']}/check")
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def codes(check: dict[str, Any]) -> list[str]:
    return [one["finding"]["code"] for one in check["findings"]]


def test_a_repair_is_a_change_like_any_other(client: TestClient, badge: bytes) -> None:
    job = changed(client, bring(client, badge), "layers", material="heat-transfer vinyl", build="stacked")
    before = checked(client, job)
    film = next(one for one in before["findings"] if one["finding"]["code"] == "film_on_film")
    assert before["to_look_at"] > 0 and film["repairs"][0]["code"] == "knock_out"
    edits = film["repairs"][0]["edits"]
    repairs = f"/api/jobs/{job['id']}/repairs"
    seen = client.post(f"{repairs}/preview", json={"edits": edits})
    assert seen.status_code == 200 and seen.json()["preview"] and checked(client, job) == before
    mended = client.post(repairs, json={"revision": job["revision"], "code": "knock_out", "edits": edits})
    assert mended.json()["document"]["make"]["layers"]["knock_out"] and mended.json()["undo"]["what"] == "repaired"
    assert "film_on_film" not in codes(checked(client, mended.json()))
    undone = client.post(f"/api/jobs/{job['id']}/undo", json={"revision": mended.json()["revision"]}).json()
    assert checked(client, undone) == before
    for wrong in ([{"item": "picture-9", "step": "pieces", "settings": {"thicken_mm": 1}}],
                  [{"item": "", "step": "layers", "settings": {"knock_mm": -4}}]):
        answer = client.post(repairs, json={"revision": undone["revision"], "code": "x", "edits": wrong})
        assert answer.status_code in (404, 422)


def test_limits_and_what_is_ignored_are_kept_and_go_along(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    assert [row["own"] for row in checked(client, job)["limits"]] == [False] * 5
    limits = checked(client, job)["limits"][0]["limits"] | {"width_mm": 20, "piece_mm2": 400}
    job = changed(client, job, "check", limits=[limits])
    check = checked(client, job)
    assert check["to_look_at"] > 0 and check["limits"][0]["own"]
    job = changed(client, job, "check", ignored=[one["known"] for one in check["findings"]])
    again = checked(client, job)
    assert again["to_look_at"] == 0 and all(one["ignored"] for one in again["findings"]) and codes(again) == codes(check)
    other = bring(client, badge)
    assert other["document"]["make"]["check"]["limits"] == [limits] and not other["document"]["make"]["check"]["ignored"]
    changed(client, other, "check", limits=[])
    assert check["work"]["pieces"] == sum(row["pieces"] for row in check["of_layers"])


def test_a_sheet_is_cut_from_its_file(client: TestClient, badge: bytes) -> None:
    job = changed(client, bring(client, badge), "sheets", marks="cross", mirror="all")
    done = client.get(f"/api/jobs/{job['id']}/sheets/1/cut").json()
    assert done["differences"] == [] and done["farthest"] < 0.02 and done["print_mm"] < 0.05
    assert [area["kind"] for area in done["areas"]].count("piece") == 1
    assert done["moves"][0]["kind"] == "travel" and done["moves"][-1]["end"] <= done["seconds"]
    assert all(one["end"] <= other["start"] for one, other in zip(done["moves"], done["moves"][1:], strict=False))
    assert client.get(f"/api/jobs/{job['id']}/sheets/99/cut").json()["code"] == "sheet_missing"


def test_files_of_the_make_of_layers_and_of_cloths(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    base = f"/api/jobs/{job['id']}/files"
    whole = client.get(f"{base}/svg")
    one = client.get(f"{base}/svg", params={"layers": 2})
    assert len(read_svg(whole.text).layers) == 3 and len(read_svg(one.text).layers) == 1
    with zipfile.ZipFile(io.BytesIO(client.get(f"{base}/pdf", params={"per": "layer"}).content)) as archive:
        assert len(archive.namelist()) == 3 and archive.testzip() is None and all("badge" in name for name in archive.namelist())
    with zipfile.ZipFile(io.BytesIO(client.get(f"{base}/svg", params={"per": "piece", "layers": 1}).content)) as archive:
        assert len(archive.namelist()) == len(read_svg(whole.text).layers[0].areas)
    picture = Image.open(io.BytesIO(client.get(f"{base}/png", params={"dpi": 150}).content))
    assert picture.info["dpi"] == pytest.approx((150, 150), abs=0.1)
    assert client.get(f"{base}/pdf", params={"spot": "/Evil\n"}).status_code == 422
    outline = client.get(f"{base}/svg", params={"drawn": "outline"}).text
    assert outline.count("<path") == 1 and 'fill="none"' in outline
    assert client.get(f"{base}/svg", params={"drawn": "pictured"}).json()["code"] == "pictured_pdf_only"
    assert client.get(f"{base}/pdf", params={"drawn": "pictured"}).content.startswith(b"%PDF")
    assert client.get(f"{base}/svg", params={"layers": 9}).json()["code"] == "layer_missing"
    picture = Image.open(io.BytesIO(client.get(f"/api/jobs/{job['id']}/items/picture-1/cleared").content))
    assert picture.mode == "RGBA" and picture.getpixel((0, 0))[3] == 0 and picture.getpixel((60, 30))[3] == 255
    job = client.post(f"/api/jobs/{job['id']}/cloths", json={"revision": job["revision"]}).json()
    with zipfile.ZipFile(io.BytesIO(client.get(f"{base}/svg", params={"per": "cloth"}).content)) as archive:
        assert len(archive.namelist()) == 2
    left = client.get(f"/api/jobs/{job['id']}/left").json()
    assert [one["unchanged"] for one in left] == [True] + [False] * 8 and left[0]["name"].endswith("-cloths.zip")


def test_the_build_sheet_says_what_is_cut_of_what(client: TestClient, badge: bytes, pictures: Any) -> None:
    job = changed(client, bring(client, badge), "layers", material="heat-transfer vinyl", cloth="Navy apron")
    origin = {"source": "the boat house", "maker": "Aunt Gull", "use": "own"}
    noted = {"items": {"picture-1": {"origin": origin}}, "did": "origin"}
    job = client.put(f"/api/jobs/{job['id']}/items", json={"revision": job["revision"], **noted}).json()
    data = client.get(f"/api/jobs/{job['id']}/build-sheet", params={"paper": "letter"}).content
    document = pypdfium2.PdfDocument(data)
    text = "\n".join(page.get_textpage().get_text_bounded() for page in document)
    where_from = "the boat house, by Aunt Gull, own work"
    for told in ("badge", "Navy apron", "Dark blue", "cut mirrored", "12 × 12 in mat", "8 to 10 s", "What it takes", where_from):
        assert told in text, told
    assert document[0].get_size() == pytest.approx((612, 792), abs=0.5)
    page = client.get(f"/api/jobs/{job['id']}/build-sheet/pages/1")
    assert Image.open(io.BytesIO(page.content)).size[0] > 800 and int(page.headers["x-pages"]) >= 1
    bundle = client.get(f"/api/jobs/{job['id']}/bundle").content
    with opened(io.BytesIO(bundle)) as found:
        assert found.jobs[0][0].model_dump(mode="json") == job["document"]
        assert [found.read(place) for place in found.files.values()] == [badge]
