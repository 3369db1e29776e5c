"""What comes of damaged and hostile files: of 12 kinds, each with bytes changed, cut out, doubled or swapped by chance.

None may be answered by 5xx, and none may take longer than the door's limit. Run: make doors, with COUNT=n for so many files.
"""

from __future__ import annotations

import io
import os
import random
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path

import pillow_heif
from fastapi.testclient import TestClient
from PIL import Image

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from bisectum.main import make_bench  # noqa: E402
from bisectum.web.app import create_app  # noqa: E402
from tests.support.hostile import HOSTILE, PLAIN, SOLIDS, damaged  # noqa: E402

LONGEST_S = 25.0
Kind = tuple[str, str, bytes]
"""Where it goes ("picture", "font", "bundle", "table"), a file name, and a sound file of the kind."""


def written(kind: str) -> bytes:
    buffer = io.BytesIO()
    Image.open(ROOT / "demo/pictures/lighthouse.png").convert("RGB").resize((120, 174)).save(buffer, kind)
    return buffer.getvalue()


def kinds(client: TestClient) -> dict[str, Kind]:
    pillow_heif.register_heif_opener()
    job = client.post("/api/jobs", files={"picture": ("one.png", written("PNG"))}).json()
    bundle = client.get(f"/api/jobs/{job['id']}/bundle").content
    font = next((ROOT / "src/bisectum/fonts").glob("*/*.[ot]tf")).read_bytes()
    stocks = client.get("/api/stocks/csv").content
    return {
        **{kind: ("picture", f"one.{kind.lower()}", written(kind)) for kind in ("PNG", "JPEG", "TIFF", "GIF", "WEBP", "HEIF")},
        "SVG": ("lines", "one.svg", PLAIN), "DXF": ("lines", "one.dxf", SOLIDS),
        "hostile": ("lines", "one.svg", b""), "font": ("font", "one.ttf", font), "bundle": ("bundle", "one.zip", bundle),
        "table": ("table", "one.csv", stocks),
    }


def main() -> None:
    count = int(os.environ.get("COUNT", "500"))
    statuses: Counter[tuple[str, int]] = Counter()
    slowest: tuple[float, str] = (0.0, "")
    with tempfile.TemporaryDirectory() as folder:
        rooms = make_bench(Path(folder, "data"))
        client = TestClient(create_app(rooms, None), base_url="http://127.0.0.1:8765", raise_server_exceptions=False)
        all_kinds = kinds(client)
        job = client.get("/api/jobs").json()["jobs"][0]["id"]
        ways: dict[str, Callable[[str, bytes], int]] = {
            "picture": lambda name, data: client.post("/api/jobs", files={"picture": (name, data)}).status_code,
            "lines": lambda name, data: client.post(f"/api/jobs/{job}/items", files={"picture": (name, data)}, data={
                "revision": str(client.get(f"/api/jobs/{job}").json()["revision"])}).status_code,
            "font": lambda name, data: client.post("/api/fonts", files={"font": (name, data)}).status_code,
            "bundle": lambda name, data: client.post("/api/shelf/bundles", files={"bundle": (name, data)}).status_code,
            "table": lambda name, data: client.post("/api/stocks/csv", files={"file": (name, data)}, data={
                "version": client.get("/api/stocks").json()["version"]}).status_code,
        }
        for seed in range(count):
            chance = random.Random(seed)
            kind = list(all_kinds)[seed % len(all_kinds)]
            way, name, sound = all_kinds[kind]
            if kind == "hostile":
                sound = HOSTILE[chance.choice(sorted(HOSTILE))]
                name = "one.dxf" if b"SECTION" in sound else name
            begun = time.perf_counter()
            status = ways[way](name, damaged(sound, chance))
            slowest = max(slowest, (time.perf_counter() - begun, f"{kind} {seed}"))
            statuses[kind, status] += 1
            if status >= 500:
                print(f"{kind}, seed {seed}: {status}", flush=True)
        alive = client.get("/api/jobs").status_code
        rooms.bench.close()
    for kind in all_kinds:
        print(f"{kind:8}", {status: number for (own, status), number in sorted(statuses.items()) if own == kind})
    bad = sum(number for (_, status), number in statuses.items() if status >= 500)
    print(f"{count} files, {bad} with 5xx (0), slowest {slowest[0]:.1f} s ({LONGEST_S:g}): {slowest[1]}; shelf {alive}")


if __name__ == "__main__":
    main()
