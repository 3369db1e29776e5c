"""The drawer of materials, and what they lie on, through the API."""

from __future__ import annotations

import io
import time
from csv import reader as csv_reader

import pytest
from fastapi.testclient import TestClient

from bisectum.core.formats.stocks_csv import parse_stocks, write_stocks
from bisectum.core.model.stock import Stock


def test_the_drawer_is_kept_whole_or_not_at_all(client: TestClient) -> None:
    empty = client.get("/api/stocks").json()
    blue = {"name": "Harbour blue", "kind": "card", "colour": "#1e3c78", "width_mm": 305, "height_mm": 305, "on_hand": False,
            "finish": "", "patterned": True}
    kept = client.put("/api/stocks", json={"version": empty["version"], "stocks": [blue]}).json()
    minted = kept["stocks"][0].pop("id")
    assert kept["stocks"] == [blue] and kept["version"] != empty["version"] and minted.startswith("stock-")
    late = client.put("/api/stocks", json={"version": empty["version"], "stocks": []})
    assert late.status_code == 409 and late.json()["code"] == "drawer_moved_on"
    wrong = client.put("/api/stocks", json={"version": kept["version"], "stocks": [blue | {"width_mm": 0}]})
    assert wrong.status_code == 422
    again = client.get("/api/stocks").json()
    assert again["stocks"] == [blue | {"id": minted}] and again["version"] == kept["version"]
    csv = client.get("/api/stocks/csv").text + '"Buoy ""red""",other,#c83c28,100,200,yes,matt\r\n'
    more = client.post("/api/stocks/csv", files={"file": ("stocks.csv", csv.encode())}, data={"version": kept["version"]}).json()
    assert [stock["name"] for stock in more["stocks"]] == ["Harbour blue", 'Buoy "red"'] and more["stocks"][0]["id"] == minted
    bad = client.post("/api/stocks/csv", files={"file": ("stocks.csv", b"name\r\nA\r\n")}, data={"version": more["version"]})
    assert bad.status_code == 422 and bad.json()["details"] == {"line": 1}
    found = client.post("/api/stocks/match", json={"colours": ["#1e3c78", "#1f3d79", "#c83c28"]}).json()
    assert [one["stock"] for one in found["matches"]] == [0, 0, 1] and found["matches"][0]["difference"] < 1e-6
    assert found["doubles"] == [[0, 1]] and found["missing"] == ["Harbour blue"]
    only = client.post("/api/stocks/match", json={"colours": ["#1e3c78"], "kind": "adhesive vinyl"}).json()
    assert only["matches"] == [None]
    client.put("/api/stocks", json={"version": more["version"], "stocks": []})


def test_a_drawer_that_is_full_is_said_before_it_is_filled(client: TestClient) -> None:
    version = client.get("/api/stocks").json()["version"]
    lines = [f"Card {number},card,#{number:06x},100,100" for number in range(1900)]
    csv = "name,kind,colour,width_mm,height_mm\r\n" + "\r\n".join(lines)
    first = client.post("/api/stocks/csv", files={"file": ("a.csv", csv.encode())}, data={"version": version}).json()
    more = csv.replace("Card", "Felt")
    second = client.post("/api/stocks/csv", files={"file": ("b.csv", more.encode())}, data={"version": first["version"]})
    assert second.status_code == 422 and second.json()["code"] == "stocks_too_many"
    kept = client.get("/api/stocks").json()
    assert len(kept["stocks"]) == 1900
    client.put("/api/stocks", json={"version": kept["version"], "stocks": []})


@pytest.mark.parametrize("name", ["=HYPERLINK(1)", "+1", "-1", "@SUM(A1)", "'=quoted"])
def test_a_spreadsheet_runs_nothing_of_ours(name: str) -> None:
    """Cells that begin so are run as formulas: common practice of spreadsheets, no source."""
    stock = Stock(name, "card", (1, 2, 3), 10, 10, True, name)
    text = write_stocks([stock])
    row = list(csv_reader(io.StringIO(text)))[1]
    assert not row[0].startswith(("=", "+", "-", "@")) and not row[6].startswith(("=", "+", "-", "@"))
    assert parse_stocks(text.encode()) == (stock,)


def test_carriers_of_ones_own_are_kept(client: TestClient) -> None:
    shipped = client.get("/api/stocks/carriers").json()["shipped"]
    assert {"12 × 12 in mat", "12 × 24 in mat", "18 in roll"} <= {one["name"] for one in shipped}
    own = {"name": "Club mat", "kind": "mat", "width_mm": 500, "height_mm": 700, "usable_width_mm": 480, "usable_height_mm": 680}
    kept = client.put("/api/stocks/carriers", json={"own": [own]}).json()
    assert kept["own"] == [own] and client.get("/api/stocks/carriers").json() == kept
    wrong = client.put("/api/stocks/carriers", json={"own": [own | {"usable_width_mm": 600}]})
    assert wrong.status_code == 422 and wrong.json()["code"] == "carrier_sizes"
    client.put("/api/stocks/carriers", json={"own": []})


def test_what_was_taken_along_is_counted_once_for_each_state(client: TestClient, badge: bytes) -> None:
    """A layer cut from a roll: the drawer tells what the files took of it, however often and as whatever kind they were saved."""
    stock = {"name": "Quay blue", "kind": "adhesive vinyl", "colour": "#1e3c78", "width_mm": 305, "height_mm": 305,
             "on_hand": True, "finish": "", "patterned": False}
    drawer = client.put("/api/stocks", json={"version": client.get("/api/stocks").json()["version"], "stocks": [stock]}).json()
    own = drawer["stocks"][0]
    job = client.post("/api/jobs", files={"picture": ("badge.png", badge)}).json()
    layer = client.get(f"/api/jobs/{job['id']}/result").json()["layers"][0]
    (hold,) = layer["holds"]
    cut_from = {name: value for name, value in own.items() if name not in ("on_hand", "finish")}
    record = {"id": "layer-1", "anchors": [hold], "stock": cut_from}
    said = {"revision": job["revision"], "settings": {"records": [record]}}
    changed = client.put(f"/api/jobs/{job['id']}/make/layers", json=said)
    assert changed.status_code == 200, changed.text

    def used(makes: int = 1) -> dict[str, float]:
        """It is noted behind the download's back."""
        for _ in range(100):
            found = client.get("/api/stocks").json()["used"].get(own["id"], {})
            if found.get("makes") == makes:
                break
            time.sleep(0.05)
        return dict(found)

    for kind in ("svg", "pdf", "svg"):
        client.get(f"/api/jobs/{job['id']}/files/{kind}")
    assert used() == {"taken_mm2": pytest.approx(304.8**2), "makes": 1}  # a sheet on the mat of 12 × 12 inches
    client.get(f"/api/jobs/{job['id']}/items/picture-1/cleared")
    assert used()["makes"] == 1
    client.put(f"/api/jobs/{job['id']}/make/sheets", json={"revision": changed.json()["revision"], "settings": {"copies": 2}})
    client.get(f"/api/jobs/{job['id']}/sheets/files/svg")
    assert used(2)["makes"] == 2
    client.delete(f"/api/jobs/{job['id']}")
    assert client.get("/api/stocks").json()["used"][own["id"]]["makes"] == 2  # what is used is used
