"""What the server bears: a heavy shelf taken out and brought back, and many clients at once.

First HEAVY pictures of 60 MB each (18 are 1 GB) go out as one bundle and come in again; then CLIENTS at once bring in pictures,
change them, and ask for results and files for MINUTES. Prints the memory of the server's own process, how often it answered 5xx,
and how long changes took. Run: make load.
"""

from __future__ import annotations

import os
import re
import sys
import tempfile
import threading
import time
from collections import Counter
from pathlib import Path

import httpx
import numpy as np

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tests.conftest import png  # noqa: E402
from tests.support.drawings import circle, painted  # noqa: E402
from tests.walks.conftest import Server  # noqa: E402
from tests.web.test_shelf import weighty  # noqa: E402

HEAVY, CLIENTS = (int(os.environ.get(name, normal)) for name, normal in (("HEAVY", "18"), ("CLIENTS", "20")))
MINUTES = float(os.environ.get("MINUTES", "3"))
WEIGHT = 60_000_000
SHORT_S = 1.0  # what a change may take, for 95 of 100


def memory_mb(process: int, what: str) -> float:
    """what: VmHWM, the most so far, or VmRSS, now."""
    found = re.search(rf"{what}:\s+(\d+) kB", Path(f"/proc/{process}/status").read_text())
    return int(found[1]) / 1000 if found else 0.0


def picture(number: int) -> bytes:
    return png(painted([(circle(30, 30, 8 + number % 20), (200, 60, 40 + number % 50))], 60, 60))


def heavy_shelf(server: Server, folder: Path) -> None:
    with httpx.Client(base_url=server.address, timeout=600) as client:
        for number in range(HEAVY):
            heavy = weighty(picture(number), WEIGHT, number)
            client.post("/api/jobs", files={"picture": ("heavy.png", heavy)}).raise_for_status()
        before, path = memory_mb(server.process.pid, "VmRSS"), folder / "bundle.zip"
        with client.stream("GET", "/api/shelf/bundle") as answer, path.open("wb") as file:
            for part in answer.iter_bytes():
                file.write(part)
        out = memory_mb(server.process.pid, "VmHWM")
        with path.open("rb") as file:
            back = client.post("/api/shelf/bundles", files={"bundle": ("bundle.zip", file)})
        print(f"bundle {path.stat().st_size / 1e6:.0f} MB, back: {back.status_code}, {len(back.json())} jobs; server "
              f"{before:.0f} MB before, most {out:.0f} MB out, {memory_mb(server.process.pid, 'VmHWM'):.0f} MB in", flush=True)


def client_at_work(address: str, number: int, until: float, statuses: Counter[int], took: list[float]) -> None:
    with httpx.Client(base_url=address, timeout=600) as client:
        while time.monotonic() < until:
            job = client.post("/api/jobs", files={"picture": ("one.png", picture(number))}).json()
            place = f"/api/jobs/{job['id']}"
            for turn in range(8):
                begun = time.monotonic()
                answer = client.put(f"{place}/items/picture-1/steps/lines", json={
                    "revision": job["revision"], "settings": {"closeness_mm": 0.1 + 0.01 * turn}})
                took.append(time.monotonic() - begun)
                job["revision"] = answer.json().get("revision", job["revision"])
                statuses[answer.status_code] += 1
                for part in ("/result", "/files/svg", "/history"):
                    statuses[client.get(place + part).status_code] += 1


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder, "data"))
        try:
            heavy_shelf(server, Path(folder))
            statuses: Counter[int] = Counter()
            took: list[float] = []
            until = time.monotonic() + 60 * MINUTES
            threads = [threading.Thread(target=client_at_work, args=(server.address, number, until, statuses, took))
                       for number in range(CLIENTS)]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
            middle, late = np.quantile(took, (0.5, 0.95))
            print(f"{len(threads)} clients, {MINUTES:g} min: {dict(statuses)}; {len(took)} changes, median {middle:.2f} s, "
                  f"95 % within {late:.2f} s ({SHORT_S:g}); server {memory_mb(server.process.pid, 'VmHWM'):.0f} MB")
        finally:
            server.kill()


if __name__ == "__main__":
    main()
