"""The stand-in scanner, measured as a person would: by squares of known size, edges and grey fields."""

from __future__ import annotations

import io

import cv2
import numpy as np
import pytest
from fastapi.testclient import TestClient
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from bisectum.services.decode import decode
from bisectum.stand_ins.scanner.glass import BETWEEN_MM, HEIGHT_MM, WIDTH_MM, Original, laid
from bisectum.stand_ins.scanner.scanner import GRAIN, scan

SIDE = 400


def square(mm_per_px: float = 0.05) -> Original:
    """20 mm of paper with a dark square of 10 mm in its middle."""
    pixels = np.full((SIDE, SIDE, 3), 250, np.uint8)
    pixels[100:300, 100:300] = 20
    return Original("Square", pixels, mm_per_px)


@pytest.mark.parametrize("dpi", [75, 150, 300, 600, 1200])
def test_what_is_scanned_has_its_true_size_place_and_turn(dpi: int) -> None:
    """OpenCV's smallest rectangle around what is dark, and its area, at every resolution."""
    one, = laid([square()])
    area = (BETWEEN_MM - 2, BETWEEN_MM - 1, 24.0, 22.0)
    grey = scan([one], area, dpi, grey=True)
    mm = 25.4 / dpi
    assert grey.shape == (round(22 / mm), round(24 / mm))
    levels = grey.astype(np.float64)
    dark = np.clip((250 - levels) / (250 - 20), 0, 1) * (levels < 225)  # paper and lid are the same white but for the light
    assert dark.sum() * mm**2 == pytest.approx(100, rel=0.02)
    _, size, angle = cv2.minAreaRect(np.argwhere(grey < 128)[:, ::-1].astype(np.float32))
    rows, columns = np.indices(grey.shape)
    middle = [float((at + 0.5).ravel() @ dark.ravel() / dark.sum()) * mm for at in (columns, rows)]
    assert middle == pytest.approx([BETWEEN_MM + 10 - area[0], BETWEEN_MM + 10 - area[1]], abs=0.1 * mm)
    assert (min(size) + 1) * mm == pytest.approx(10, abs=1.2 * mm)
    if dpi >= 600:  # below, half a degree is a stair of one pixel
        assert min(angle % 90, 90 - angle % 90) == pytest.approx(abs(one.turn_deg), abs=0.15)


def test_a_scan_has_grain_and_is_the_same_twice() -> None:
    lid = scan([], (50, 50, 40, 40), 300)
    assert lid.std(axis=(0, 1)) == pytest.approx([GRAIN] * 3, rel=0.15)
    assert (scan([], (50, 50, 40, 40), 300) == lid).all()


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.integers(2, 3000), st.integers(2, 3000)), max_size=14))
def test_originals_lie_on_the_glass_and_not_on_each_other(sizes: list[tuple[int, int]]) -> None:
    originals = laid(Original("", np.broadcast_to(np.uint8(9), (h, w, 3)), 0.1) for w, h in sizes)
    for i, one in enumerate(originals):
        assert one.x >= 0 and one.y >= 0 and one.x + one.width <= WIDTH_MM and one.y + one.height <= HEIGHT_MM
        for other in originals[:i]:
            across = max(other.x - one.x - one.width, one.x - other.x - other.width)
            apart = max(across, other.y - one.y - one.height, one.y - other.y - other.height)
            assert apart > BETWEEN_MM - 1e-9


def test_a_scan_comes_in_at_its_real_size(client: TestClient) -> None:
    """A picture of one's own is put on the glass, scanned, and is a make as large as it was on the paper."""
    file = io.BytesIO()
    Image.fromarray(square().pixels).save(file, "PNG", dpi=(508, 508))
    put = client.post("/api/scanner/glass", files={"picture": ("My square.png", file.getvalue())}).json()
    own = next(one for one in put["originals"] if one["own"])
    assert (own["name"], own["width"], own["height"]) == ("My square", pytest.approx(20, abs=0.01), pytest.approx(20, abs=0.01))
    area = {"x": own["x"] + 2, "y": own["y"] + 2, "width": 16, "height": 16}
    scanned = client.post("/api/scanner/scan", json={**area, "dpi": 300})
    assert "UTF-8''My%20square.png" in scanned.headers["content-disposition"]
    source, info = decode(scanned.content)
    assert info.dpi == pytest.approx(300, abs=0.01) and source.rgba.shape[:2] == (189, 189)
    job = client.post("/api/jobs", files={"picture": ("square.png", scanned.content)}).json()
    result = client.get(f"/api/jobs/{job['id']}/result").json()
    assert (result["width_mm"], result["height_mm"]) == pytest.approx((10.06, 10.06), abs=0.12)  # turned by half a degree
    looked = Image.open(io.BytesIO(client.get("/api/scanner/look").content))
    assert looked.size == (425, 585)
    left = client.delete("/api/scanner/glass/My square").json()["originals"]
    assert [one["name"] for one in left] == [one["name"] for one in put["originals"] if not one["own"]]
    assert client.delete("/api/scanner/glass/My square").status_code == 404


def test_what_lies_there_is_not_pushed_off(client: TestClient) -> None:
    """Prints that fill the glass: a further one is refused with a sentence, those before stay, and the demo's make room."""
    large = io.BytesIO()
    fields = np.kron(np.eye(2, dtype=np.uint8)[..., None] * 200, np.ones((300, 300, 3), np.uint8))
    Image.fromarray(fields).save(large, "PNG", dpi=(100, 100))
    for name in ("b", "a"):  # 152 mm each: beside or under each other there is room for one
        answer = client.post("/api/scanner/glass", files={"picture": (f"{name}.png", large.getvalue())})
    assert answer.status_code == 422 and answer.json()["code"] == "glass_full"
    names = [one["name"] for one in client.get("/api/scanner").json()["originals"]]
    assert names[0] == "b" and "a" not in names
    client.delete("/api/scanner/glass/b")


def test_too_much_is_said_beforehand(client: TestClient) -> None:
    whole = {"x": 0, "y": 0, "width": WIDTH_MM, "height": HEIGHT_MM, "dpi": 1200}
    refused = client.post("/api/scanner/scan", json=whole)
    assert refused.status_code == 422 and refused.json()["code"] == "scan_too_large"
    most = refused.json()["details"]["dpi"]
    assert refused.json()["details"]["millions"] == 143 and 480 < most < 520
    assert client.post("/api/scanner/scan", json={**whole, "x": 10, "dpi": 75}).status_code == 422
    assert client.post("/api/scanner/glass", files={"picture": ("a.png", b"no picture")}).status_code == 422
    assert client.get("/api/scanner").json()["most_px"] == 26_000_000
