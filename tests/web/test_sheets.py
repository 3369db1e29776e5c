"""Sheets, cloths and carriers through the API."""

from __future__ import annotations

import io
import zipfile
from typing import Any

import pytest
from fastapi.testclient import TestClient

from bisectum.core.formats.svg.read import read_svg
from bisectum.services.bench import Bench
from bisectum.services.layouts import LayoutFolder
from tests.web.test_api import bring


def changed(client: TestClient, job: dict[str, Any], step: str, **settings: Any) -> dict[str, Any]:
    answer = client.put(f"/api/jobs/{job['id']}/make/{step}", json={"revision": job["revision"], "settings": settings})
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def sheets(client: TestClient, job: dict[str, Any], cloth: str = "") -> dict[str, Any]:
    answer = client.get(f"/api/jobs/{job['id']}/sheets", params={"cloth": cloth})
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def test_every_sheet_has_a_file_and_all_are_in_one_archive(client: TestClient, badge: bytes) -> None:
    job = changed(client, bring(client, badge), "sheets", copies=3, marks="brackets")
    plan = sheets(client, job)
    assert [len(sheet["places"]) for sheet in plan["sheets"]] == [3] * len(plan["layers"]) and plan["left_over"] == 0
    assert [one["sheets"] for one in plan["used"]] == [1] * len(plan["layers"])
    answer = client.get(f"/api/jobs/{job['id']}/sheets/files/svg")
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        names = archive.namelist()
        first = archive.read(names[0])
    one = client.get(f"/api/jobs/{job['id']}/sheets/1/files/svg")
    assert one.content == first and len(names) == len(plan["sheets"]) and "sheet-1" in one.headers["content-disposition"]
    assert len(read_svg(first.decode()).layers[0].areas) == 3 * len(read_svg(
        client.get(f"/api/jobs/{job['id']}/files/svg").text).layers[0].areas)
    gone = client.get(f"/api/jobs/{job['id']}/sheets/99/files/svg")
    assert gone.status_code == 404 and gone.json()["code"] == "sheet_missing"
    # Sheets are no part of the result: it is the same one.
    before = client.get(f"/api/jobs/{job['id']}/result").json()["key"]
    job = changed(client, job, "sheets", copies=2)
    assert client.get(f"/api/jobs/{job['id']}/result").json()["key"] == before


def test_a_close_layout_is_kept_on_the_disk(client: TestClient, bench: Bench, badge: bytes) -> None:
    job = changed(client, bring(client, badge), "sheets", layout="ganged", seconds=1, copies=2)
    plan = sheets(client, job)
    folder = LayoutFolder(bench.results._layouts)
    assert len(folder) >= len(plan["used"]) and all(folder[key].laid for key in folder)
    for key in list(folder):
        assert folder[key] == LayoutFolder(bench.results._layouts)[key]
    broken = next(iter(folder))
    folder._path(broken).write_text("{")
    with pytest.raises(KeyError):
        folder[broken]
    del folder[broken]
    assert broken not in folder


def test_what_cannot_be_laid_out_is_a_sentence_and_the_job_stays(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    for wrong in ({"copies": 0}, {"copies": 10_000}, {"spacing_mm": -1}, {"carrier": {"name": "x"}}, {"layout": "piled"}):
        answer = client.put(f"/api/jobs/{job['id']}/make/sheets", json={"revision": job["revision"], "settings": wrong})
        assert answer.status_code == 422
    assert client.get(f"/api/jobs/{job['id']}").json()["revision"] == job["revision"]
    job = changed(client, job, "sheets", margin_mm=190)
    answer = client.get(f"/api/jobs/{job['id']}/sheets")
    told = answer.json()
    assert answer.status_code == 422 and told["code"] == "no_usable_area" and "smaller margin" in told["message"]


def test_a_cloth_has_its_own_result_files_and_sheets(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    answer = client.post(f"/api/jobs/{job['id']}/cloths", json={"revision": job["revision"]})
    assert answer.status_code == 200, answer.text
    layers = answer.json()["document"]["make"]["layers"]
    cloth = layers["variants"][0]["id"]
    assert layers["cloth"] == "Light cloth" and layers["variants"][0]["cloth"] == "Dark cloth"
    own = client.get(f"/api/jobs/{job['id']}/result").json()
    dark = client.get(f"/api/jobs/{job['id']}/cloths/{cloth}/result").json()
    assert dark["cloth"] == "Dark cloth" and dark["key"] != own["key"]
    assert "for-Dark-cloth" in client.get(f"/api/jobs/{job['id']}/files/svg?cloth={cloth}").headers["content-disposition"]
    assert sheets(client, job, cloth)["cloth"] == "Dark cloth"
    missing = client.get(f"/api/jobs/{job['id']}/cloths/cloth-77/result")
    assert missing.status_code == 404 and missing.json()["code"] == "cloth_missing"
    undone = client.post(f"/api/jobs/{job['id']}/undo", json={"revision": answer.json()["revision"]}).json()
    assert undone["document"]["make"]["layers"]["variants"] == []


def test_a_layer_keeps_the_stock_it_was_given(client: TestClient, badge: bytes) -> None:
    """Also when the drawer has it no more."""
    version = client.get("/api/stocks").json()["version"]
    body = {"name": "Buoy red", "kind": "heat-transfer vinyl", "colour": "#c4422e", "width_mm": 200, "height_mm": 300,
            "on_hand": True, "finish": ""}
    drawer = client.put("/api/stocks", json={"version": version, "stocks": [body]}).json()
    stock = {name: drawer["stocks"][0][name] for name in ("id", "name", "kind", "colour", "width_mm", "height_mm", "patterned")}
    job = bring(client, badge)
    first = client.get(f"/api/jobs/{job['id']}/result").json()["layers"][0]
    job = changed(client, job, "layers", records=[{"id": "", "anchors": first["holds"], "stock": stock}])
    client.put("/api/stocks", json={"version": drawer["version"], "stocks": []})
    shown = client.get(f"/api/jobs/{job['id']}/result").json()["layers"][0]
    assert (shown["stock"], shown["kind"], shown["colour"]) == (stock["id"], "heat-transfer vinyl", "#c4422e")
    plan = sheets(client, job)
    assert plan["sheets"][0]["mirrored"] and plan["sheets"][0]["usable"][2] == 200 and not plan["sheets"][1]["mirrored"]
