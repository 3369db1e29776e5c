"""Items that are no pictures, over the API: brought in, changed, copied, tried; fonts; and what is refused."""

from __future__ import annotations

from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from bisectum.services.fonts import SHIPPED, shipped_files
from tests.web.test_api import bring, move

NAME = {"made": {"text": "Quillhaven", "font": "pacifico", "capital_mm": 6, "colour": "#123456"},
        "place": {"x_mm": 60, "y_mm": 60}, "part": {"clear_mm": 0.5}}


def add(client: TestClient, job: dict, kind: str, fields: dict, **rest: object) -> dict:
    body = {"revision": job["revision"], "kind": kind, "name": kind.title(), "fields": fields, **rest}
    answer = client.post(f"/api/jobs/{job['id']}/made", json=body)
    assert answer.status_code == 201, answer.text
    return answer.json()


def put(client: TestClient, job: dict, did: str, **items: dict) -> dict:
    answer = client.put(f"/api/jobs/{job['id']}/items", json={
        "revision": job["revision"], "did": did, "items": {name.replace("_", "-"): own for name, own in items.items()}})
    assert answer.status_code == 200, answer.text
    return answer.json()


def result_of(client: TestClient, job: dict) -> dict:
    answer = client.get(f"/api/jobs/{job['id']}/result")
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_lettering_comes_moves_and_goes(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    before = result_of(client, job)
    middle = (before["items"][0]["box"][0] + before["items"][0]["box"][2]) / 2
    job = add(client, job, "lettering", NAME)
    assert job["document"]["items"][0]["place"]["x_mm"] == pytest.approx(middle + before["origin"][0], abs=1e-3)
    first = result_of(client, job)
    name = first["items"][1]
    assert name["outline"].startswith("M") and name["facts"] is None and name["colour"] == "#123456"
    assert "#123456" in [layer["colour"] for layer in first["layers"]]
    job = put(client, job, "moved", lettering_2={"place": {"x_mm": 90}}, picture_1={"place": {"turn_deg": 15}})
    assert job["undo"]["what"] == "changed_items" and job["undo"]["values"] == {"did": "moved", "name": "badge", "count": 2}
    moved = result_of(client, job)
    away = moved["items"][1]["placement"][2] + moved["origin"][0] - name["placement"][2] - first["origin"][0]
    assert away == pytest.approx(30)
    back = move(client, job, "undo")
    assert back["document"]["items"][1]["place"]["x_mm"] == 60
    tried = client.post(f"/api/jobs/{job['id']}/items/preview", json={"items": {"lettering-2": {"made": {"text": "Tea"}}}}).json()
    assert tried["preview"] and tried["items"][1]["outline"] != name["outline"]
    answer = client.get(f"/api/jobs/{job['id']}/files/svg")
    assert answer.status_code == 200


def test_shapes_strokes_borders_and_copies(client: TestClient, badge: bytes) -> None:
    job = add(client, bring(client, badge), "shape", {"made": {"form": "heart"}, "place": {"x_mm": 0, "y_mm": 0}})
    stroke = [[20 + k, 30 + (k % 7)] for k in range(40)]
    job = add(client, job, "drawn", {}, stroke=stroke, mm_per_px=0.2)
    drawn = job["document"]["items"][-1]
    assert not drawn["made"]["closed"] and len(drawn["made"]["nodes"]) > 1
    job = add(client, job, "border", {"made": {"distance_mm": 2}})
    assert job["document"]["items"][0]["kind"] == "border"
    answer = client.post(f"/api/jobs/{job['id']}/items/shape-2/copies",
                         json={"revision": job["revision"], "moves": [{"dx": 50}, {"dx": 100}]})
    assert answer.status_code == 201 and answer.json()["undo"]["values"] == {"name": "Shape", "count": 2}
    assert len(result_of(client, answer.json())["items"]) == 6
    resized = client.put(f"/api/jobs/{job['id']}/size", json={"revision": answer.json()["revision"], "width_mm": 300})
    assert resized.status_code == 200 and result_of(client, resized.json())["width_mm"] == pytest.approx(300, abs=0.02)


def test_fonts_come_in_and_are_shown(client: TestClient, badge: bytes) -> None:
    listed = client.get("/api/fonts").json()
    assert {font["id"] for font in listed} >= {font.id for font in SHIPPED}
    data = shipped_files("zilla-slab")[0]
    own = client.post("/api/fonts", files={"font": ("Quay Sign.ttf", data)})
    assert own.status_code == 201 and own.json()["style"] == "own" and own.json()["name"] == "Quay Sign"
    assert client.post("/api/fonts", files={"font": ("Quay Sign.ttf", data)}).json()["id"] == own.json()["id"]
    assert client.get("/api/fonts").json()[0]["id"] == own.json()["id"]
    for font in (own.json()["id"], "nunito"):
        answer = client.get(f"/api/fonts/{font}/file")
        assert answer.headers["content-type"] == "font/ttf" and len(answer.content) > 5000
    assert client.get("/api/fonts/nothing/file").status_code == 404
    words = {"text": "Ahoy", "font": own.json()["id"]}
    job = add(client, bring(client, badge), "lettering", {"made": words, "place": {"x_mm": 0, "y_mm": 100}})
    shipped = add(client, job, "lettering", {"made": {"text": "Ahoy", "font": "zilla-slab"}, "place": {"x_mm": 0, "y_mm": 200}})
    items = {item["id"]: item for item in result_of(client, shipped)["items"]}
    assert items["lettering-2"]["outline"] == items["lettering-3"]["outline"]


def test_what_is_no_font_is_refused_in_words(client: TestClient) -> None:
    for data, name in ((b"not a font", "poem.ttf"), (shipped_files("nunito")[0][:2000], "torn.ttf"), (b"", "empty.otf")):
        answer = client.post("/api/fonts", files={"font": (name, data)})
        assert answer.status_code == 422 and answer.json()["code"] in ("no_font", "font_damaged"), name


def test_what_cannot_be_leaves_the_job_as_it_was(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    for kind, fields, code in (
        ("lettering", {"made": {"text": "a" * 2000}}, "text_too_long"), ("lettering", {"made": {"text": " "}}, "text_empty"),
        ("shape", {"made": {"form": "star", "width_mm": 0}}, None), ("shape", {"made": {"form": "star", "width_mm": 5000}}, None),
        ("shape", {"made": {"form": "arrow"}}, None), ("drawn", {}, None), ("shape", {"place": {"x_mm": 1e9}}, None),
    ):
        answer = client.post(f"/api/jobs/{job['id']}/made", json={
            "revision": job["revision"], "kind": kind, "name": "X", "fields": fields})
        assert answer.status_code == 422, (kind, fields)
        assert code is None or answer.json()["code"] == code
        assert answer.json()["message"]
    dot = {"revision": job["revision"], "kind": "drawn", "name": "X", "stroke": [[1, 1], [1.01, 1]], "mm_per_px": 0.1}
    assert client.post(f"/api/jobs/{job['id']}/made", json=dot).json()["code"] == "stroke_too_short"
    assert client.get(f"/api/jobs/{job['id']}").json()["revision"] == job["revision"]
    far = add(client, job, "shape", {"place": {"x_mm": 15_000, "y_mm": -15_000}})
    assert result_of(client, far)["width_mm"] > 14_000
    whole = {"width_mm": 2000, "height_mm": 2000, "form": "rectangle"}
    gone = put(client, far, "part", shape_2={"part": {"kind": "cuts"}, "place": {"x_mm": 60, "y_mm": 60}, "made": whole})
    answer = client.get(f"/api/jobs/{gone['id']}/result")
    assert answer.status_code == 422 and answer.json()["code"] == "all_taken_away"


def test_a_vector_file_comes_into_a_job_and_starts_none(client: TestClient, pictures: Path) -> None:
    head = b'<svg xmlns="http://www.w3.org/2000/svg" width="50mm" height="20mm" viewBox="0 0 50 20">'
    drawing, words = head + b'<path d="M5 5h40" stroke="#a00"/></svg>', head + b"<text>a</text></svg>"
    alone = client.post("/api/jobs", files={"picture": ("a.svg", drawing)})
    assert alone.status_code == 422 and alone.json()["code"] == "lines_alone"
    job = client.post("/api/jobs", files={"picture": ("a.png", (pictures / "lighthouse.png").read_bytes())}).json()
    place = f"/api/jobs/{job['id']}"
    revision = {"revision": job["revision"]}
    refused = client.post(f"{place}/items", files={"picture": ("b.svg", words)}, data=revision)
    assert refused.status_code == 422 and refused.json()["code"] == "lines_empty"
    after = client.post(f"{place}/items", files={"picture": ("b.svg", drawing)}, data=revision).json()
    assert [item["kind"] for item in after["document"]["items"]] == ["picture", "lines"]
    shown = result_of(client, job)
    assert shown["items"][1]["open_lines"] == 1 and [len(layer["strokes"]) for layer in shown["layers"]].count(1) == 1


def test_items_come_in_and_are_placed_though_nothing_is_left_to_cut(client: TestClient, badge: bytes) -> None:
    """What was there before is taken away whole; the way back is to bring something in, or to move what takes it away."""
    job = add(client, bring(client, badge), "shape", {"made": {"form": "rectangle", "width_mm": 2000, "height_mm": 2000}})
    gone = put(client, job, "part", shape_2={"part": {"kind": "cuts"}})
    assert client.get(f"/api/jobs/{job['id']}/result").json()["code"] == "all_taken_away"
    placed = add(client, gone, "lettering", {"made": {"text": "Quay"}})
    assert result_of(client, placed)["layers"] and placed["document"]["items"][2]["made"]["capital_mm"] > 0
    moved = put(client, move(client, placed, "undo"), "mirrored", shape_2={"place": {"mirrored": True, "x_mm": 9000}})
    assert result_of(client, moved)["layers"]
