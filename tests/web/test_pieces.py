"""Pieces over the API: the list, changes by hand, rules tried and kept, lifted pieces; and what is refused."""

from __future__ import annotations

from fastapi.testclient import TestClient

from tests.web.test_api import ITEM, bring, change, move, place


def pieces(client: TestClient, job: dict, item: str = ITEM) -> list[dict]:
    answer = client.get(f"/api/jobs/{job['id']}/items/{item}/pieces")
    assert answer.status_code == 200, answer.text
    return answer.json()["rows"]


def changed(row: dict, kind: str, **fields: object) -> dict:
    return {"kind": kind, "x": row["at"][0], "y": row["at"][1], "area": row["area"], "colour": row["colour"] or None, **fields}


def add(client: TestClient, job: dict, *changes: dict) -> dict:
    answer = client.put(place(job, "pieces"), json={"revision": job["revision"], "add": {"changes": list(changes)}})
    assert answer.status_code == 200, answer.text
    return client.get(f"/api/jobs/{job['id']}").json()


def test_a_piece_goes_and_comes_back(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    before = pieces(client, job)
    smallest = min(before, key=lambda row: row["area"])
    assert smallest["path"].startswith("M") and 0 < smallest["least_mm"] <= smallest["widest_mm"]
    job = add(client, job, changed(smallest, "drop"))
    after = pieces(client, job)
    gone = [row for row in after if row["reason"]]
    assert [(row["reason"], row["change"], row["path"]) for row in gone] == [("dropped", 0, smallest["path"])]
    facts = client.get(f"/api/jobs/{job['id']}/result").json()["items"][0]["facts"]["pieces"]
    assert facts["here"] == len([row for row in after if not row["reason"] and row["colour"]])
    assert (facts["gone"], facts["missed"]) == (1, [])
    assert job["undo"]["what"] == "changed_pieces"
    assert len(pieces(client, move(client, job, "undo"))) == len(before)


def test_rules_are_tried_and_kept(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    tried = client.post(f"{place(job, 'pieces')}/preview", json={"settings": {"thinnest_mm": 3.0}}).json()
    assert tried["preview"] and tried["items"][0]["facts"]["pieces"]["gone"] == 0
    job = change(client, job, "pieces", keep="largest", bridge_mm=1.5)
    facts = client.get(f"/api/jobs/{job['id']}/result").json()["items"][0]["facts"]["pieces"]
    assert facts["here"] <= 3


def test_what_is_lifted_out_lies_where_it_lay(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    row = min((row for row in pieces(client, job) if row["colour"]), key=lambda row: row["area"])
    body = {"revision": job["revision"], "kind": "lifted", "name": "From badge", "lifts": [changed(row, "lift")],
            "fields": {"made": {"source": ITEM, "colour": row["colour"][:7]}, "place": {"x_mm": 20, "y_mm": 20}},
            "places": {ITEM: {"x_mm": 30, "y_mm": 30}}}
    answer = client.post(f"/api/jobs/{job['id']}/made", json=body)
    assert answer.status_code == 201, answer.text
    job = answer.json()
    result = client.get(f"/api/jobs/{job['id']}/result").json()
    assert [item["id"] for item in result["items"]] == [ITEM, "lifted-2"] and result["items"][1]["outline"].startswith("M")
    assert [row["reason"] for row in pieces(client, job) if row["reason"]] == ["lifted"]
    assert client.get(f"/api/jobs/{job['id']}/files/svg").status_code == 200
    bad = client.post(f"/api/jobs/{job['id']}/made", json=body | {"revision": job["revision"], "lifts": [{"x": "left"}]})
    assert bad.status_code == 422


def test_bad_changes_are_refused_and_the_job_stays(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    for wrong in ({"kind": "give", "x": 0.5, "y": 0.5}, {"kind": "eat"}, {"kind": "cut", "line": [], "amount_mm": 1}):
        answer = client.put(place(job, "pieces"), json={"revision": job["revision"], "add": {"changes": [wrong]}})
        assert answer.status_code == 422
    below = client.put(place(job, "pieces"), json={"revision": job["revision"], "settings": {"smallest_mm2": -1}})
    assert below.status_code == 422
    assert client.get(f"/api/jobs/{job['id']}/items/lettering-9/pieces").status_code == 404
    assert client.get(f"/api/jobs/{job['id']}").json()["revision"] == job["revision"]
