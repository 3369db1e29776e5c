"""The API with everything behind it: jobs, changes, previews, export, refusals."""

from __future__ import annotations

import io

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from bisectum.core.formats.svg.read import read_svg
from bisectum.services.bench import Bench

ITEM = "picture-1"


def bring(client: TestClient, data: bytes, name: str = "badge.png") -> dict:
    answer = client.post("/api/jobs", files={"picture": (name, data)})
    assert answer.status_code == 201, answer.text
    return answer.json()


def place(job: dict, step: str, item: str = ITEM) -> str:
    """The address of a step: of an item, or of the make."""
    return f"/api/jobs/{job['id']}/" + (f"make/{step}" if step in ("layers", "arrange") else f"items/{item}/steps/{step}")


def change(client: TestClient, job: dict, step: str, item: str = ITEM, **settings: object) -> dict:
    """The job after a change."""
    answer = client.put(place(job, step, item), json={"revision": job["revision"], "settings": settings})
    assert answer.status_code == 200, answer.text
    return client.get(f"/api/jobs/{job['id']}").json()


def move(client: TestClient, job: dict, which: str) -> dict:
    answer = client.post(f"/api/jobs/{job['id']}/{which}", json={"revision": job["revision"]})
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_from_a_picture_to_a_file(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge, "harbour_badge-2.png")
    assert job["document"]["name"] == "harbour badge 2"
    result = client.get(f"/api/jobs/{job['id']}/result").json()
    assert [layer["colour"] for layer in result["layers"]] == ["#1e3c78", "#c83c28", "#ffffff"]
    assert result["items"][0]["facts"]["background"]["kind"] == "plain"
    for image in ("background", "colours"):
        assert client.get(f"/api/images/{result['items'][0]['images'][image]}").content.startswith(b"\x89PNG")
    assert client.get(f"/api/jobs/{job['id']}/items/{ITEM}/picture").content.startswith(b"\x89PNG")
    assert client.get(f"/api/jobs/{job['id']}/thumbnail").content.startswith(b"\x89PNG")
    bars = client.get(f"/api/results/{result['key']}/edge", params={"axis": "x", "at": result["width_mm"] / 2}).json()
    assert max(bar["below"] for bar in bars) == 2
    wide = change(client, job, "picture", width_mm=70)
    answer = client.get(f"/api/jobs/{wide['id']}/files/svg")
    assert "harbour-badge-2.svg" in answer.headers["content-disposition"]
    assert read_svg(answer.text).width_mm == 70
    assert len(read_svg(answer.text).layers) == 3


def test_a_preview_changes_nothing_and_a_change_can_be_undone(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    seen = client.post(f"{place(job, 'layers')}/preview", json={"settings": {"build": "flush"}}).json()
    assert seen["preview"] and seen["build"] == "flush"
    assert client.get(f"/api/jobs/{job['id']}").json() == job
    changed = change(client, job, "layers", build="flush")
    assert changed["undo"]["values"] == {"build": "flush"}
    assert client.get(f"/api/jobs/{job['id']}/result").json()["build"] == "flush"
    back = move(client, changed, "undo")
    assert back["document"] == job["document"] and back["redo"]["what"] == "changed_layers"
    assert client.get(f"/api/jobs/{job['id']}/result").json()["build"] == "whole"
    assert move(client, back, "redo")["document"] == changed["document"]
    assert [c["what"] for c in client.get(f"/api/jobs/{job['id']}/history").json()] == ["brought_in", "changed_layers"]


def test_a_spot_and_a_turned_picture_are_shown(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    asked = client.post(f"/api/jobs/{job['id']}/items/{ITEM}/spot", json={"kind": "spot_clear", "points": [[0.5, 0.5]]})
    mask = np.asarray(Image.open(io.BytesIO(asked.content)).convert("RGBA"))[..., 3]
    assert asked.status_code == 200 and 0 < (mask > 0).mean() < 1
    touch = {"kind": "clear", "points": [[0.5, 0.5]], "width": 0.2}
    before, after = (
        client.post(f"/api/jobs/{job['id']}/items/{ITEM}/ground", json={"add": {"touches": touches}}) for touches in ([], [touch])
    )
    gone = [(np.asarray(Image.open(io.BytesIO(one.content)).convert("RGBA"))[..., 3] > 127).mean() for one in (before, after)]
    assert gone[0] + 0.01 < gone[1] < gone[0] + 0.05
    wrong = client.post(f"/api/jobs/{job['id']}/items/{ITEM}/spot", json={"kind": "spot_clear", "points": []})
    assert wrong.status_code == 422 and wrong.json()["code"]
    plain = client.get(f"/api/jobs/{job['id']}/result").json()
    assert plain["items"][0]["images"]["picture"] == ""
    change(client, job, "picture", turn=90)
    turned = client.get(f"/api/jobs/{job['id']}/result").json()
    (item,) = turned["items"]
    shown = Image.open(io.BytesIO(client.get(f"/api/images/{item['images']['picture']}").content))
    came = Image.open(io.BytesIO(badge))
    assert shown.size == came.size[::-1]
    a, b, c, d, e, f = item["placement"]
    assert (a, e) == pytest.approx((0, 0)) and b < 0 < d
    height = came.size[1] / came.size[0]
    # The lower left corner of the picture that came in is the upper left one now.
    assert (b * height + c, e * height + f) == pytest.approx(item["frame"][:2])


def test_the_drawer_is_kept_whole_or_not_at_all(client: TestClient) -> None:
    empty = client.get("/api/stocks").json()
    blue = {"name": "Harbour blue", "kind": "card", "colour": "#1e3c78", "width_mm": 305, "height_mm": 305, "on_hand": False,
            "finish": ""}
    kept = client.put("/api/stocks", json={"version": empty["version"], "stocks": [blue]}).json()
    assert kept["stocks"] == [blue] and kept["version"] != empty["version"]
    late = client.put("/api/stocks", json={"version": empty["version"], "stocks": []})
    assert late.status_code == 409 and late.json()["code"] == "drawer_moved_on"
    wrong = client.put("/api/stocks", json={"version": kept["version"], "stocks": [blue | {"width_mm": 0}]})
    assert wrong.status_code == 422 and client.get("/api/stocks").json() == kept
    csv = client.get("/api/stocks/csv").text + '"Buoy ""red""",other,#c83c28,100,200,yes,matt\r\n'
    more = client.post("/api/stocks/csv", files={"file": ("stocks.csv", csv.encode())}, data={"version": kept["version"]}).json()
    assert [stock["name"] for stock in more["stocks"]] == ["Harbour blue", 'Buoy "red"']
    bad = client.post("/api/stocks/csv", files={"file": ("stocks.csv", b"name\r\nA\r\n")}, data={"version": more["version"]})
    assert bad.status_code == 422 and bad.json()["details"] == {"line": 1}
    found = client.post("/api/stocks/match", json={"colours": ["#1e3c78", "#1f3d79", "#c83c28"]}).json()
    assert [one["stock"] for one in found["matches"]] == [0, 0, 1] and found["matches"][0]["difference"] < 1e-6
    assert found["doubles"] == [[0, 1]] and found["missing"] == ["Harbour blue"]
    only = client.post("/api/stocks/match", json={"colours": ["#1e3c78"], "kind": "adhesive vinyl"}).json()
    assert only["matches"] == [None]
    client.put("/api/stocks", json={"version": more["version"], "stocks": []})


def test_the_dropper_answers_with_a_flat_colour(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    assert client.get(f"/api/jobs/{job['id']}/items/{ITEM}/dropper", params={"x": 0.5, "y": 0.35}).json() == {"colour": "#c83c28"}
    assert client.get(f"/api/jobs/{job['id']}/items/{ITEM}/dropper", params={"x": 3, "y": 0.35}).json() == {"colour": None}


def test_the_same_picture_twice_is_kept_once(client: TestClient, bench: Bench, badge: bytes) -> None:
    one, other = bring(client, badge), bring(client, badge)
    assert one["id"] != other["id"]
    assert one["document"]["items"][0]["source"] == other["document"]["items"][0]["source"]


@pytest.mark.parametrize(
    ("data", "code"), [(b"", "picture_empty"), (b"text", "picture_unknown"), (b"\x89PNG\r\n\x1a\nxx", "picture_damaged")]
)
def test_a_bad_picture_leaves_everything_as_it_was(client: TestClient, data: bytes, code: str) -> None:
    before = client.get("/api/jobs").json()
    answer = client.post("/api/jobs", files={"picture": ("bad.png", data)})
    assert answer.status_code == 422
    assert answer.json()["code"] == code
    assert set(answer.json()) == {"code", "message", "details"}
    assert client.get("/api/jobs").json() == before


def test_bad_settings_leave_the_job_as_it_was(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    for step, settings in (
        ("lines", {"closeness_mm": -1}),
        ("lines", {"nonsense": 1}),
        ("layers", {"build": "sideways"}),
        ("picture", {"width_mm": 1e9}),
        ("background", {"colour": "red"}),
        ("colours", {"count": 0}),
    ):
        answer = client.put(place(job, step), json={"revision": job["revision"], "settings": settings})
        assert answer.status_code == 422 and answer.json()["code"] == "settings", (step, answer.text)
    assert client.get(f"/api/jobs/{job['id']}").json() == job
    name = client.put(f"/api/jobs/{job['id']}/name", json={"revision": job["revision"], "name": "x" * 300})
    assert name.json()["code"] == "bad_name" and "80" in name.json()["message"]


def test_a_change_that_leaves_nothing_says_so_and_can_be_undone(client: TestClient, badge: bytes) -> None:
    job = change(client, bring(client, badge), "colours", smallest_mm2=400)
    job = change(client, job, "picture", width_mm=6)
    answer = client.get(f"/api/jobs/{job['id']}/result")
    assert answer.status_code == 422 and answer.json()["code"] in ("all_too_small", "nothing_left")
    move(client, move(client, job, "undo"), "undo")
    assert client.get(f"/api/jobs/{job['id']}/result").status_code == 200


def test_two_windows_do_not_overwrite_each_other(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    change(client, job, "lines", closeness_mm=0.2)
    late = client.put(place(job, "lines"), json={"revision": job["revision"], "settings": {"closeness_mm": 0.3}})
    assert late.status_code == 409 and late.json()["code"] == "job_moved_on"
    other = client.put(place(job, "lines"), json={"revision": job["revision"], "settings": {"corner_deg": 40}}).json()
    both = client.get(f"/api/jobs/{job['id']}").json()["document"]["items"][0]["course"]["lines"]
    assert (both["closeness_mm"], both["corner_deg"]) == (0.2, 40) and other["base"] != job["revision"]


def test_what_is_not_there(client: TestClient) -> None:
    assert client.get("/api/jobs/999999").json()["code"] == "job_missing"
    assert client.get(f"/api/jobs/{2**63 - 1}").status_code == 404
    assert client.get(f"/api/jobs/{2**63}").status_code == 422
    assert client.get("/api/results/nothing/edge", params={"axis": "x", "at": 3}).json()["code"] == "result_missing"
    assert client.get("/api/results/nothing/edge", params={"axis": "x", "at": "nan"}).status_code == 422


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({}, 200),
        ({"Origin": "http://127.0.0.1:8765"}, 200),
        ({"Origin": "http://elsewhere.example"}, 403),
        ({"Host": "elsewhere.example"}, 403),
        ({"Host": "127.0.0.1.elsewhere.example"}, 403),
        ({"Host": "localhost:8765"}, 200),
        ({"Origin": "null"}, 403),
        ({"Origin": "http://["}, 403),
        ({"Sec-Fetch-Site": "same-origin"}, 200),
        ({"Sec-Fetch-Site": "cross-site"}, 403),
        ({"Sec-Fetch-Site": "same-site"}, 403),
    ],
)
def test_only_own_pages_may_ask(client: TestClient, headers: dict[str, str], status: int) -> None:
    assert client.get("/api/health", headers=headers).status_code == status


def test_a_job_goes_for_good(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    assert client.delete(f"/api/jobs/{job['id']}").status_code == 204
    assert client.get(f"/api/jobs/{job['id']}").status_code == 404


def test_progress_is_told(bench: Bench, client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    client.get(f"/api/jobs/{job['id']}/result")  # the first work is done: what comes now is news of the change alone
    watcher = bench.progress.watch(job["id"])
    change(client, job, "lines", closeness_mm=0.031)
    client.get(f"/api/jobs/{job['id']}/result")
    news = []
    while not news or news[-1].state == "working":
        news.append(watcher.get(timeout=10))
    bench.progress.leave(job["id"], watcher)
    fractions = [one.fraction for one in news]
    assert fractions == sorted(fractions) and news[-1].state == "done"
    assert news[0].state == "working"
