"""The API with everything behind it: jobs, changes, previews, export, refusals."""

from __future__ import annotations

import asyncio
import errno
import io
import json
import os
import re
import time
from collections.abc import Coroutine
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Any, TypeVar

import httpx
import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from bisectum.core.errors import Cancelled
from bisectum.core.formats.svg.read import read_svg
from bisectum.services.bench import Bench
from bisectum.services.results import Shown
from bisectum.services.rooms import Rooms
from bisectum.store.jobs import Job
from bisectum.web.app import create_app

ITEM = "picture-1"
T = TypeVar("T")


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
    assert (b * height + c, e * height + f) == pytest.approx((item["raster"][2], item["raster"][5]))


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
    job = change(client, bring(client, badge), "picture", width_mm=6)
    colours = [layer["colour"] for layer in client.get(f"/api/jobs/{job['id']}/result").json()["layers"]]
    job = change(client, job, "colours", palette_changes=[{"kind": "clear", "colour": own} for own in colours])
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
    # What a change of lines leads to, step after step; what lies before is kept.
    assert [what for what in dict.fromkeys(one.what for one in news) if what] == ["lines", "pieces", "arrange", "layers"]


def test_every_image_that_a_result_names_is_there(client: TestClient, pictures: Path) -> None:
    """Of clip art, a photograph and a page of ink, whose ground is made in another way."""
    for name in ("lighthouse.png", "kettle.jpg", "tide-note.jpg"):
        job = bring(client, (pictures / name).read_bytes(), name)
        item, = client.get(f"/api/jobs/{job['id']}/result").json()["items"]
        for image in filter(None, item["images"].values()):
            assert client.get(f"/api/images/{image}").status_code == 200, (name, image)


def test_a_page_of_a_deleted_job_changes_nothing(client: TestClient, badge: bytes) -> None:
    gone = bring(client, badge)
    client.delete(f"/api/jobs/{gone['id']}")
    new = bring(client, badge)
    late = client.put(place(gone, "lines"), json={"revision": gone["revision"], "settings": {"closeness_mm": 0.3}})
    assert late.status_code == 404 and new["id"] > gone["id"]
    assert client.get(f"/api/jobs/{gone['id']}/progress").status_code == 404
    assert client.get(f"/api/jobs/{new['id']}").json() == new


def test_a_change_that_is_sent_again_is_made_once(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    touch = {"kind": "clear", "points": [[0.5, 0.5]], "width": 0.1}
    body = {"revision": job["revision"], "add": {"touches": [touch]}, "ticket": "t-1"}
    answers = [client.put(place(job, "background"), json=body).json() for _ in range(3)]
    assert len({answer["revision"] for answer in answers}) == 1 and answers[0]["base"] == job["revision"]
    now = client.get(f"/api/jobs/{job['id']}").json()
    assert len(now["document"]["items"][0]["course"]["background"]["touches"]) == 1
    out = client.put(place(job, "background"), json={"revision": now["revision"], "take_out": {"touches": [0]}})
    assert out.status_code == 200
    assert client.get(f"/api/jobs/{job['id']}").json()["document"]["items"][0]["course"]["background"]["touches"] == []
    wrong = client.put(place(job, "background"), json={"revision": out.json()["revision"], "add": {"mode": ["auto"]}})
    assert wrong.status_code == 422


def test_undo_of_a_state_that_is_gone_is_refused(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    change(client, job, "lines", closeness_mm=0.2)
    late = client.post(f"/api/jobs/{job['id']}/undo", json={"revision": job["revision"]})
    assert late.status_code == 409 and late.json()["code"] == "job_moved_on"


def test_two_pictures_in_one_job(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    answer = client.post(f"/api/jobs/{job['id']}/items", files={"picture": ("b.png", badge)}, data={"revision": job["revision"]})
    assert answer.status_code == 201, answer.text
    job = change(client, answer.json(), "lines", item="picture-2", closeness_mm=0.4)
    courses = [item["course"]["lines"]["closeness_mm"] for item in job["document"]["items"]]
    assert courses == [0.1, 0.4]
    result = client.get(f"/api/jobs/{job['id']}/result").json()
    one, other = result["items"]
    assert other["box"][0] >= one["box"][2]
    assert {hold["item"] for hold in result["layers"][0]["holds"]} == {"picture-1", "picture-2"}
    record = {"anchors": result["layers"][0]["holds"], "name": "Both"}
    wanted = {"revision": job["revision"], "settings": {"records": [record], "order": ["-0"]}}
    named = client.put(place(job, "layers"), json=wanted).json()
    assert named["document"]["make"]["layers"]["order"] == ["layer-3"]
    moved = client.put(f"/api/jobs/{job['id']}/items/picture-2/order", json={"revision": named["revision"], "place": 0}).json()
    assert [item["id"] for item in moved["document"]["items"]] == ["picture-2", "picture-1"]
    wide = client.put(f"/api/jobs/{job['id']}/size", json={"revision": moved["revision"], "width_mm": 200}).json()
    assert client.get(f"/api/jobs/{job['id']}/result").json()["width_mm"] == pytest.approx(200)
    less = client.post(f"/api/jobs/{job['id']}/items/picture-1/taken-out", json={"revision": wide["revision"]}).json()
    assert [item["id"] for item in less["document"]["items"]] == ["picture-2"]
    last = client.post(f"/api/jobs/{job['id']}/items/picture-2/taken-out", json={"revision": less["revision"]})
    assert last.status_code == 422 and last.json()["code"] == "last_item"
    missing = client.get(f"/api/jobs/{job['id']}/items/picture-1/picture")
    assert missing.status_code == 404 and missing.json()["code"] == "item_missing"


def ran(work: Coroutine[Any, Any, T]) -> T:
    """The result of a coroutine, in a thread of its own: the browser of other tests may have a loop in this one."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(asyncio.run, work).result(60)


def test_who_waits_holds_no_thread(bench: Bench, rooms: Rooms, badge: bytes) -> None:
    """A hundred pages that wait for a result that does not come, and a question that is answered all the same."""
    job = bench.new_job(badge, "badge.png")
    app = create_app(rooms, None)
    never: Future[Shown] = Future()

    async def ask() -> float:
        transport = httpx.ASGITransport(app=app)
        async with httpx.AsyncClient(transport=transport, base_url="http://127.0.0.1:8765") as asking:
            waiting = [asyncio.create_task(asking.get(f"/api/jobs/{job.id}/result")) for _ in range(100)]
            await asyncio.sleep(0.5)
            began = time.perf_counter()
            assert (await asyncio.wait_for(asking.get("/api/health"), 5)).status_code == 200
            assert (await asyncio.wait_for(asking.get(f"/api/jobs/{job.id}"), 5)).status_code == 200
            seconds = time.perf_counter() - began
            assert not any(task.done() for task in waiting)
            never.set_exception(Cancelled("Stopped.", code="cancelled"))
            assert {answer.status_code for answer in await asyncio.gather(*waiting)} == {409}
            return seconds

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(bench.results, "of", lambda _: never)
        assert ran(ask()) < 4


def test_a_result_that_gave_way_is_waited_for_anew(client: TestClient, bench: Bench, badge: bytes) -> None:
    job = bring(client, badge)
    given = iter([Cancelled("Replaced.", code="superseded"), Cancelled("Replaced.", code="superseded")])
    original = bench.results.of

    def of(now: Job) -> Future[Shown]:
        error = next(given, None)
        if error is None:
            return original(now)
        late: Future[Shown] = Future()
        late.set_exception(error)
        return late

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(bench.results, "of", of)
        assert client.get(f"/api/jobs/{job['id']}/result").json()["layers"]


# What comes in at the door


def test_answers_say_what_they_are_and_to_whom(client: TestClient) -> None:
    for path in ("/api/health", "/api/jobs", "/api/nothing"):
        headers = client.get(path).headers
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["referrer-policy"] == "no-referrer"
        assert headers["cross-origin-resource-policy"] == "same-origin"


FORM = b'--x\r\nContent-Disposition: form-data; name="picture"; filename="a.png"\r\n\r\n'


@pytest.mark.parametrize(("method", "path", "kind", "first", "most"), [
    ("POST", "/api/jobs", b"multipart/form-data; boundary=x", FORM, 64), ("PUT", "/api/stocks", b"application/json", b"[", 8),
])
def test_too_much_is_refused_while_it_is_read(
    rooms: Rooms, method: str, path: str, kind: bytes, first: bytes, most: int
) -> None:
    """A body without end, a megabyte at a time; and one that says beforehand how long it is."""
    read, said = [], []

    async def receive() -> dict[str, Any]:
        read.append(1)
        return {"type": "http.request", "body": first if len(read) == 1 else b"x" * 2**20, "more_body": len(read) < 400}

    async def send(message: dict[str, Any]) -> None:
        said.append(message)

    def ask(*more: tuple[bytes, bytes]) -> None:
        read.clear()
        said.clear()
        headers = [(b"host", b"127.0.0.1:8765"), (b"content-type", kind), *more]
        scope = {"type": "http", "http_version": "1.1", "method": method, "path": path, "root_path": "", "scheme": "http",
                 "query_string": b"", "headers": headers, "client": ("127.0.0.1", 1), "server": ("127.0.0.1", 2)}
        ran(create_app(rooms, None)(scope, receive, send))  # type: ignore[arg-type]

    ask()
    assert [message.get("status") for message in said] == [413, None] and len(read) <= most + 3
    ask((b"content-length", b"700000000"))
    assert said[0]["status"] == 413 and not read
    if most == 64:
        assert b"64 MB" in said[1]["body"]


STOCK = {"name": "Blue", "kind": "card", "colour": "#1e3c78", "width_mm": 305, "height_mm": 305, "on_hand": True, "finish": ""}


@pytest.mark.parametrize(("path", "content"), [
    ("/api/stocks", b'{"version": "\\ud800", "stocks": []}'),
    ("/api/stocks", b'{"version": "x", "stocks": [{"name": "\\ud800"}]}'),
    ("/api/stocks", b"[" * 50_000),
    ("/api/stocks", b"not json"),
    ("/api/stocks", b'{"version": 1e999, "stocks": {}}'),
    ("/api/stocks", json.dumps({"version": "x", "stocks": [STOCK | {"name": "\x07"}]}).encode()),
    ("/api/stocks", json.dumps({"version": "x", "stocks": [STOCK] * 2001}).encode()),
    ("/api/stocks", json.dumps({"version": "x" * 100_000, "stocks": []}).encode()),
])
def test_strange_bodies_are_a_persons_mistake_and_said_so(client: TestClient, path: str, content: bytes) -> None:
    answer = client.put(path, content=content, headers={"Content-Type": "application/json"})
    assert answer.status_code in (400, 409, 422), answer.text
    message = answer.json()["message"]
    assert "  " not in message and not re.search(r"[A-Z][a-z]+[A-Z]\w+|pydantic|Error|class", message), message


def test_a_defect_shows_nothing_of_its_inside(rooms: Rooms, caplog: pytest.LogCaptureFixture) -> None:
    app = create_app(rooms, None)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(rooms[0], "jobs", lambda: 1 / 0)
        answer = TestClient(app, base_url="http://127.0.0.1:8765", raise_server_exceptions=False).get("/api/jobs")
    assert answer.status_code == 500 and answer.json()["code"] == "defect"
    assert "ZeroDivision" not in answer.text and "ZeroDivisionError" in caplog.text


def test_a_full_disk_is_said(client: TestClient, bench: Bench, badge: bytes) -> None:
    with pytest.MonkeyPatch.context() as patch:
        def full(_: int) -> None:
            raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

        patch.setattr(os, "fsync", full)
        answer = client.post("/api/jobs", files={"picture": ("new.png", badge + b"more")})
    assert answer.status_code == 507 and "disk is full" in answer.json()["message"]


def test_a_page_that_leaves_takes_its_watcher_with_it(rooms: Rooms, badge: bytes) -> None:
    bench = rooms[0]
    job = bench.new_job(badge, "badge.png")
    said: list[dict[str, Any]] = []
    watching: list[int] = []

    async def receive() -> dict[str, Any]:
        while not said:
            await asyncio.sleep(0.01)
        await asyncio.sleep(0.2)
        watching.append(bench.progress.watched())
        return {"type": "http.disconnect"}

    async def send(message: dict[str, Any]) -> None:
        said.append(message)

    before = bench.progress.watched()
    scope = {"type": "http", "http_version": "1.1", "method": "GET", "path": f"/api/jobs/{job.id}/progress", "root_path": "",
             "scheme": "http", "query_string": b"", "headers": [(b"host", b"127.0.0.1:8765")], "client": ("127.0.0.1", 1),
             "server": ("127.0.0.1", 2)}
    ran(create_app(rooms, None)(scope, receive, send))  # type: ignore[arg-type]
    assert watching[0] == before + 1 and bench.progress.watched() == before
    assert said[0]["status"] == 200


@pytest.mark.parametrize(("method", "path", "body"), [
    ("PUT", "name", {"name": "Jetty"}),
    ("PUT", "size", {"width_mm": 123.0}),
    ("POST", "made", {"kind": "shape", "name": "Disc", "fields": {"made": {"form": "ellipse", "width_mm": 9, "height_mm": 9}}}),
    ("PUT", "items", {"items": {"picture-1": {"hidden": True}}, "did": "hidden"}),
    ("PUT", "items/moved", {"how": {"act": "by", "items": {"picture-1": {"dx": 5}}}, "did": "moved"}),
    ("POST", "items/picture-1/copies", {"moves": [{"dx": 30}]}),
    ("PUT", "items/picture-1/name", {"name": "Hull"}),
    ("PUT", "make/arrange", {"settings": {"gap_mm": 3}}),
])
def test_a_change_whose_answer_got_lost_is_made_once(
    client: TestClient, badge: bytes, method: str, path: str, body: dict[str, Any]
) -> None:
    job = bring(client, badge)
    sent = {"revision": job["revision"], "ticket": "t-1", **body}
    once, twice = (client.request(method, f"/api/jobs/{job['id']}/{path}", json=sent) for _ in range(2))
    assert {once.status_code, twice.status_code} <= {200, 201}, once.text
    assert once.json()["revision"] == twice.json()["revision"] > job["revision"]
    assert len(client.get(f"/api/jobs/{job['id']}/history").json()) == 2


def test_a_page_of_another_data_folder_changes_nothing(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    own = client.get("/api/health").headers["data-folder"]
    for folder, status in (("another", 409), (own, 200)):
        name = {"revision": job["revision"], "name": "Jetty"}
        answer = client.put(f"/api/jobs/{job['id']}/name", json=name, headers={"Data-Folder": folder})
        assert answer.status_code == status
