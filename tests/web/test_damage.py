"""What is broken in the data folder, or comes in broken, stays a matter of its own: the rest is there and goes on."""

from __future__ import annotations

import io
import json
import sqlite3
import time
import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from bisectum.main import make_bench
from bisectum.services.verify import damage_in
from bisectum.web.app import create_app
from tests.conftest import png
from tests.support.drawings import circle, painted
from tests.web.test_api import bring
from tests.web.test_sheets import changed
from tests.web.test_shelf import back, on_shelf, rewritten


def until(true: Callable[[], bool]) -> None:
    """Wait for what is done beside requests."""
    for _ in range(200):
        if true():
            return
        time.sleep(0.05)
    assert true()


@pytest.fixture()
def data(tmp_path: Path) -> Path:
    return tmp_path / "data"


@contextmanager
def served(data: Path) -> Iterator[TestClient]:
    """A server on a folder that may be damaged."""
    rooms = make_bench(data)
    yield TestClient(create_app(rooms, None), base_url="http://127.0.0.1:8765", raise_server_exceptions=False)
    rooms[0].close()


def done(data: Path, *orders: str) -> None:
    """SQL on the data folder, as a disk or a hand would change it."""
    with sqlite3.connect(data / "bisectum.sqlite") as connection:
        for order in orders:
            connection.execute(order)


def test_words_with_half_a_character_do_not_break_the_shelf(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    taken = client.get(f"/api/jobs/{job['id']}/bundle").content

    def halved(files: dict[str, bytes]) -> None:
        files["shelf.json"] = b'{"tags": ["gift \\ud83d", "\\ud83d", "bow\\u0000l", "caf\\u0065\\u0301"]}'

    def named(files: dict[str, bytes]) -> None:
        files["job.json"] = json.dumps(json.loads(files["job.json"]) | {"name": "Half \ud83d"}).encode()

    came, = back(client, rewritten(taken, halved)).json()
    assert on_shelf(client)[came["id"]]["tags"] == ["gift", "bowl", "café"]
    refused = back(client, rewritten(taken, named))
    assert refused.status_code in (200, 422) and client.get("/api/jobs").status_code == 200


def test_a_newest_job_that_cannot_be_read_stands_in_nobodys_way(data: Path, badge: bytes) -> None:
    with served(data) as own:
        sound, broken = changed(own, bring(own, badge), "layers", build="flush"), bring(own, badge)
    done(data, f"UPDATE revision SET document = '{{\"version\": 5, \"items\": [3]}}' WHERE job_id = {broken['id']}")
    with served(data) as own:
        assert bring(own, badge)["id"] > broken["id"]
        assert set(on_shelf(own)) >= {sound["id"], broken["id"]}
        assert own.get(f"/api/jobs/{broken['id']}").json()["code"] == "document_unreadable"
        assert own.get("/api/shelf/bundle").status_code == 200
    done(data, "DELETE FROM part")
    with served(data) as own:
        assert own.get("/api/jobs").status_code == 200
        assert own.get(f"/api/jobs/{sound['id']}").json()["code"] == "part_missing"
        fresh = bring(own, badge)
        assert own.get(f"/api/jobs/{fresh['id']}/result").status_code == 200
        with zipfile.ZipFile(io.BytesIO(own.get("/api/shelf/bundle").content)) as bundle:
            assert any(name.endswith("job.json") for name in bundle.namelist()) and b"badge" in bundle.read("LEFT-OUT.txt")


@pytest.fixture()
def own(data: Path) -> Iterator[TestClient]:
    with served(data) as client:
        yield client


def test_a_drawer_kept_by_other_rules_is_read_as_it_is(own: TestClient, data: Path) -> None:
    blue = {"name": "Harbour blue", "kind": "card", "colour": "#1e3c78", "width_mm": 305, "height_mm": 305, "on_hand": True,
            "finish": "", "patterned": False}
    version = own.get("/api/stocks").json()["version"]
    names = ["Bleu\u00a0marine", "Anchor ⚓\ufe0f👩\u200d🎨", "Tab\tbed"]
    kept = own.put("/api/stocks", json={"version": version, "stocks": [blue | {"name": name} for name in names]})
    assert [stock["name"] for stock in kept.json()["stocks"]] == [*names[:2], "Tab bed"]
    done(data, "UPDATE stock SET name = char(7) || 'Bell', width_mm = 0, kind = 'foil'")
    read = own.get("/api/stocks")
    assert read.status_code == 200 and len(read.json()["stocks"]) == 3


@pytest.mark.parametrize("damage", [lambda path: path.write_bytes(b""), lambda path: path.write_bytes(path.read_bytes()[:-40]),
                                    lambda path: path.write_bytes(path.read_bytes()[:60] + b"?" + path.read_bytes()[61:])])
def test_a_damaged_picture_is_healed_by_the_good_one(
    own: TestClient, data: Path, badge: bytes, damage: Callable[[Path], Any]
) -> None:
    job = bring(own, badge)
    source = job["document"]["items"][0]["source"]
    path = data / "blobs" / source[:2] / source
    sound = path.read_bytes()
    damage(path)
    again = bring(own, badge)
    assert path.read_bytes() == sound
    for one in (job, again):
        assert own.get(f"/api/jobs/{one['id']}/result").status_code == 200


def test_whatever_is_damaged_all_else_opens_and_new_pictures_come_in(data: Path) -> None:
    """Each job is damaged in a way of its own, but the last."""
    with served(data) as own:
        jobs = [bring(own, png(painted([(circle(30, 30, 8 + nth), (200, 60, 40))], 60, 60)))["id"] for nth in range(9)]
        source = own.get(f"/api/jobs/{jobs[6]}").json()["document"]["items"][0]["source"]
        other = own.get(f"/api/jobs/{jobs[7]}").json()["document"]["items"][0]["source"]
    assert not list(damage_in(data))
    done(data, f"UPDATE revision SET document = '{{\"version\": 99}}' WHERE job_id = {jobs[0]}",
         f"DELETE FROM revision WHERE job_id = {jobs[1]}", f"UPDATE job SET tags = '7' WHERE id = {jobs[2]}",
         f"UPDATE job SET head_id = 987654 WHERE id = {jobs[3]}",
         f"UPDATE revision SET document = '\"', what_values = '{{' WHERE job_id = {jobs[4]}",
         f"UPDATE job SET thumbnail = 'gone', tags = '[[3]]' WHERE id = {jobs[5]}")
    (data / "blobs" / source[:2] / source).unlink()
    cut = data / "blobs" / other[:2] / other
    cut.write_bytes(cut.read_bytes()[:50])
    told = list(damage_in(data))
    assert len(told) == 6 and sum("Bring that file in once more" in sentence for sentence in told) == 2
    with served(data) as own:
        until(lambda: own.get("/api/shelf/damage").json() == told)  # by the quick look at the start
        assert own.get("/api/jobs").status_code == 200 and set(jobs) == set(on_shelf(own))
        for job in jobs:
            for part in ("", "/thumbnail", "/history", "/result"):
                assert own.get(f"/api/jobs/{job}{part}").status_code < 500, (job, part)
        for sound in (jobs[8], bring(own, png(painted([(circle(30, 30, 20), (20, 60, 140))], 60, 60)))["id"]):
            assert own.get(f"/api/jobs/{sound}/result").status_code == 200
        assert own.get("/api/shelf/bundle").status_code == 200
        source = own.get(f"/api/jobs/{jobs[8]}").json()["document"]["items"][0]["source"]
        path = data / "blobs" / source[:2] / source
        path.write_bytes(path.read_bytes()[:-1] + b"?")  # its size says nothing
        assert own.get("/api/shelf/damage").json() == told
        assert len(own.post("/api/shelf/damage").json()) == 7 == len(own.get("/api/shelf/damage").json())
        for job in jobs:
            assert own.delete(f"/api/jobs/{job}").status_code == 204
        assert not set(jobs) & set(on_shelf(own))
