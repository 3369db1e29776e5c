"""What a damaged data folder still does: rows taken out, files cut, bytes changed, documents of a newer version, by chance.

After each damage the shelf must answer, every job that was not damaged must open, a new picture must come in, and nothing may be
answered by 5xx. Run: make damage, with COUNT=n for so many damages.
"""

from __future__ import annotations

import os
import random
import shutil
import sqlite3
import sys
import tempfile
from pathlib import Path

from fastapi.testclient import TestClient

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from bisectum.main import make_bench  # noqa: E402
from bisectum.web.app import create_app  # noqa: E402
from tests.conftest import png  # noqa: E402
from tests.support.drawings import circle, painted  # noqa: E402

JOBS = 5
TABLES = ("job", "revision", "part", "blob", "stock", "carrier", "flag")


def picture(number: int) -> bytes:
    return png(painted([(circle(30, 30, 8 + number), (200, 60, 40))], 60, 60))


def served(data: Path) -> tuple[TestClient, object]:
    rooms = make_bench(data)
    return TestClient(create_app(rooms, None), base_url="http://127.0.0.1:8765", raise_server_exceptions=False), rooms.bench


def laid_out(data: Path) -> None:
    client, bench = served(data)
    for number in range(JOBS):
        job = client.post("/api/jobs", files={"picture": (f"{number}.png", picture(number))}).json()
        client.put(f"/api/jobs/{job['id']}/name", json={"revision": job["revision"], "name": f"Buoy {number}"})
        client.get(f"/api/jobs/{job['id']}/result")
    bench.close()  # type: ignore[attr-defined]


def damaged(data: Path, chance: random.Random) -> tuple[str, set[int]]:
    """Damage a folder. Returns what was done, and the jobs it may have hit."""
    everyone = set(range(1, JOBS + 1))
    with sqlite3.connect(data / "bisectum.sqlite") as connection:
        tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        kind = chance.choice(("row", "cut", "byte", "newer", "words"))
        job = chance.randint(1, JOBS)
        if kind == "row":
            table = chance.choice([name for name in TABLES if name in tables])
            key = "digest" if table == "part" else "rowid"
            row = connection.execute(f"SELECT {key} FROM {table} ORDER BY random() LIMIT 1").fetchone()
            if row is None:
                return f"{table} is empty", set()
            own = connection.execute("SELECT job_id FROM revision WHERE id = ?", row).fetchall() if table == "revision" else []
            connection.execute("PRAGMA foreign_keys = OFF")
            connection.execute(f"DELETE FROM {table} WHERE {key} = ?", row)
            hit = {"job": {row[0]}, "revision": {one for (one,) in own}, "part": everyone}.get(table, set())
            return f"a row of {table} out", hit
        if kind == "newer":
            connection.execute("UPDATE revision SET document = '{\"version\": 99}' WHERE job_id = ?", (job,))
            return "a newer version", {job}
        if kind == "words":
            field = chance.choice(("tags", "name", "thumbnail"))
            word = chance.choice(('["\\ud83d"]', "[[3]]", "{", "7"))
            connection.execute(f"UPDATE job SET {field} = ? WHERE id = ?", (word, job))
            return f"{field} unreadable", {job}
    blob = chance.choice([path for path in (data / "blobs").glob("*/*") if path.is_file()])
    content = bytearray(blob.read_bytes())
    if kind == "cut":
        blob.write_bytes(content[: chance.randrange(len(content))])
    else:
        content[chance.randrange(len(content))] ^= 1 << chance.randrange(8)
        blob.write_bytes(content)
    return f"a file {kind}", everyone  # whose it is, is not looked for


def faults_of(data: Path, hit: set[int]) -> list[str]:
    client, bench = served(data)
    found = []
    asked = ["/api/jobs", "/api/shelf/damage", "/api/stocks", "/api/shelf/bundle"]
    asked += [f"/api/jobs/{job}{part}" for job in range(1, JOBS + 1) for part in ("", "/result", "/history", "/thumbnail")]
    for address in asked:
        status = client.get(address).status_code
        sound = address == "/api/jobs" or any(address in (f"/api/jobs/{job}", f"/api/jobs/{job}/result")
                                              for job in set(range(1, JOBS + 1)) - hit)
        if status >= 500 or (sound and status != 200):
            found.append(f"{address}: {status}")
    fresh = client.post("/api/jobs", files={"picture": ("new.png", picture(JOBS))})
    if fresh.status_code != 201 or client.get(f"/api/jobs/{fresh.json()['id']}/result").status_code != 200:
        found.append(f"a new picture: {fresh.status_code}")
    bench.close()  # type: ignore[attr-defined]
    return found


def main() -> None:
    count, bad = int(os.environ.get("COUNT", "200")), 0
    with tempfile.TemporaryDirectory() as folder:
        whole = Path(folder, "whole")
        laid_out(whole)
        for seed in range(count):
            data = Path(folder, str(seed))
            shutil.copytree(whole, data)
            what, hit = damaged(data, random.Random(seed))
            faults = faults_of(data, hit)
            bad += bool(faults)
            if faults:
                print(f"{seed}: {what}: {faults}", flush=True)
            shutil.rmtree(data)
    print(f"{count} damages, {bad} with faults (0)")


if __name__ == "__main__":
    main()
