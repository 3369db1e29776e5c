"""The shelf through the API: tags, copies, what is taken off, bundles out and back."""

from __future__ import annotations

import io
import json
import tracemalloc
import zipfile
import zlib
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from bisectum.services.bundle import MOST_ENTRIES
from bisectum.services.rooms import Rooms
from tests.web.test_api import bring
from tests.web.test_sheets import changed


def on_shelf(client: TestClient) -> dict[int, dict[str, Any]]:
    return {job["id"]: job for job in client.get("/api/jobs").json()["jobs"]}


def thrown(client: TestClient) -> list[int]:
    return [job["id"] for job in client.get("/api/shelf/thrown").json()]


def back(client: TestClient, data: bytes) -> Any:
    return client.post("/api/shelf/bundles", files={"bundle": ("a.zip", data)})


def test_tags_size_and_layers_are_told_and_kept_in_order(client: TestClient, badge: bytes) -> None:
    one, other = bring(client, badge), bring(client, badge)
    client.get(f"/api/jobs/{one['id']}/result")
    body = {"jobs": [one["id"], other["id"]], "add": ["open day", "  red   boat "]}
    assert client.post("/api/shelf/tags", json=body).status_code == 204
    client.post("/api/shelf/tags", json={"jobs": [one["id"]], "add": ["gift", "open day"], "take_off": ["red boat"]})
    shelf = on_shelf(client)
    assert shelf[one["id"]]["tags"] == ["open day", "gift"] and shelf[other["id"]]["tags"] == ["open day", "red boat"]
    assert shelf[one["id"]]["layers"] == 3 and shelf[one["id"]]["width_mm"] > 10
    for wrong in ({"jobs": [one["id"]], "add": ["x" * 31]}, {"jobs": [one["id"]], "add": [" "]}, {"jobs": [10**9], "add": ["a"]}):
        assert client.post("/api/shelf/tags", json=wrong).status_code in (404, 422)
    assert on_shelf(client)[one["id"]]["tags"] == ["open day", "gift"]


def test_what_is_taken_off_comes_back_for_thirty_days(client: TestClient, rooms: Rooms, badge: bytes) -> None:
    job = changed(client, bring(client, badge), "layers", build="flush")
    client.post("/api/shelf/thrown", json={"jobs": [job["id"]], "thrown": True})
    assert job["id"] not in on_shelf(client) and job["id"] in thrown(client)
    shelf = rooms[3]
    assert shelf.sweep(datetime.now(UTC) + timedelta(days=29)) == 0
    client.post("/api/shelf/thrown", json={"jobs": [job["id"]], "thrown": False})
    assert client.get(f"/api/jobs/{job['id']}").json()["document"] == job["document"]
    client.post("/api/shelf/thrown", json={"jobs": [job["id"]], "thrown": True})
    assert shelf.sweep(datetime.now(UTC) + timedelta(days=31)) == 1
    assert client.get(f"/api/jobs/{job['id']}").status_code == 404
    missing = client.post("/api/shelf/thrown", json={"jobs": [bring(client, badge)["id"], 10**9], "thrown": True})
    assert missing.status_code == 404 and not thrown(client)


def test_a_copy_goes_its_own_way(client: TestClient, badge: bytes) -> None:
    job = changed(client, bring(client, badge), "layers", build="lapped")
    client.post("/api/shelf/tags", json={"jobs": [job["id"]], "add": ["boat"]})
    copied = client.post("/api/shelf/copies", json={"job": job["id"], "name": "Second one"}).json()
    assert copied["id"] != job["id"] and copied["document"]["name"] == "Second one"
    assert copied["document"]["make"] == job["document"]["make"] and on_shelf(client)[copied["id"]]["tags"] == ["boat"]
    client.delete(f"/api/jobs/{job['id']}")
    assert client.get(f"/api/jobs/{copied['id']}/files/svg").status_code == 200


def test_a_job_that_is_taken_out_and_brought_back_cuts_the_same_byte_for_byte(client: TestClient, badge: bytes) -> None:
    job = changed(client, bring(client, badge), "layers", build="lapped", lap_mm=0.7)
    client.post("/api/shelf/tags", json={"jobs": [job["id"]], "add": ["boat"]})
    file = client.get(f"/api/jobs/{job['id']}/files/svg").content
    answer = client.get(f"/api/jobs/{job['id']}/bundle")
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        names = archive.namelist()
        assert {"README.txt", "job.json", "shelf.json", "result.svg"} <= set(names) and archive.read("result.svg") == file
        assert json.loads(archive.read("job.json"))["version"] == 5
    assert client.get(f"/api/jobs/{job['id']}/bundle").content == answer.content
    client.delete(f"/api/jobs/{job['id']}")
    again, = back(client, answer.content).json()
    assert again["document"] == job["document"] and on_shelf(client)[again["id"]]["tags"] == ["boat"]
    assert client.get(f"/api/jobs/{again['id']}/files/svg").content == file


def test_a_whole_shelf_goes_and_comes(client: TestClient, badge: bytes) -> None:
    ids = [bring(client, badge)["id"] for _ in range(3)]
    data = client.post("/api/shelf/bundle", json={"jobs": ids}).content
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert sum(name.endswith("job.json") for name in archive.namelist()) == 3
        assert sum(name.startswith("pictures/") for name in archive.namelist()) == 1
    assert len(back(client, data).json()) == 3
    every = client.get("/api/shelf/bundle")
    assert every.status_code == 200 and "bisectum-shelf" in every.headers["content-disposition"]


def weighty(badge: bytes, weight: int, seed: int) -> bytes:
    """The same picture in a file that is so much heavier: with a chunk that no reader looks at (PNG 1.2, W3C, chapter 3.3)."""
    own = np.random.default_rng(seed).bytes(weight)
    chunk = b"prVt" + own
    return badge[:-12] + weight.to_bytes(4, "big") + chunk + zlib.crc32(chunk).to_bytes(4, "big") + badge[-12:]


def test_a_heavy_shelf_goes_and_comes_with_one_picture_in_memory_at_a_time(rooms: Rooms, badge: bytes) -> None:
    bench, shelf, weight = rooms.bench, rooms.shelf, 12_000_000
    ids = [bench.new_job(weighty(badge, weight, seed), "heavy.png").id for seed in range(8)]
    tracemalloc.start()
    try:
        with shelf.take_out(ids)[1] as file:
            came = shelf.bring_back(file)
        _, most = tracemalloc.get_traced_memory()
    finally:
        tracemalloc.stop()
    assert len(came) == len(ids) and most < 4 * weight
    assert [job.document.items[0].source for job in came] == [bench.job(one).document.items[0].source for one in ids]


def rewritten(data: bytes, change: Callable[[dict[str, bytes]], None]) -> bytes:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    change(files)
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, own in files.items():
            archive.writestr(name, own)
    return buffer.getvalue()


def without_picture(files: dict[str, bytes]) -> None:
    for name in [name for name in files if name.startswith("pictures/")]:
        del files[name]


def newer(files: dict[str, bytes]) -> None:
    files["job.json"] = json.dumps(json.loads(files["job.json"]) | {"version": 99}).encode()


def older(files: dict[str, bytes]) -> None:
    files["job.json"] = files["job.json"].replace(b'"version": 5', b'"version": 77777777777777777777')


@pytest.mark.parametrize(("change", "code"), [
    (without_picture, "bundle_incomplete"), (newer, "document_newer"), (older, "document_newer"),
    (lambda files: files.update({"../../evil.txt": b"x"}), "bundle_unsafe"),
    (lambda files: files.update({"/etc/x": b"x"}), "bundle_unsafe"),
    (lambda files: files.update({"pictures/bomb": b"\0" * 40_000_000}), "bundle_too_large"),
    (lambda files: files.update({f"x/{n}": b"" for n in range(MOST_ENTRIES + 1)}), "bundle_too_large"),
    (lambda files: files.update({"job.json": b"{"}), "bundle_unreadable"),
    (lambda files: files.pop("job.json") and None, "bundle_unreadable"),
    (lambda files: files.update({"job.json": b'{"version": 3}'}), "document_unreadable"),
])
def test_a_bundle_that_is_not_sound_is_refused_with_a_sentence(
    client: TestClient, badge: bytes, change: Callable[[dict[str, bytes]], None], code: str
) -> None:
    job = bring(client, badge)
    before = len(on_shelf(client))
    answer = back(client, rewritten(client.get(f"/api/jobs/{job['id']}/bundle").content, change))
    assert answer.status_code in (409, 422) and answer.json()["code"] == code and answer.json()["message"].endswith(".")
    assert len(on_shelf(client)) == before
    assert back(client, b"no zip at all").json()["code"] == "bundle_unreadable"
