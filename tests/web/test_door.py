"""Files from outside at the door: what swells, turns in a circle or lies out of this world is refused with a sentence."""

from __future__ import annotations

import io
import threading
from typing import Any

import pytest
from fastapi.testclient import TestClient
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen

from bisectum.core.errors import InputError, SettingsError
from bisectum.core.formats.ready.read import read_lines
from bisectum.core.items.lettering import lettering_rings
from bisectum.core.items.settings import Lettering
from bisectum.stand_ins.cutter.reading import tool_lines
from bisectum.worker.door import through_the_door
from tests.support.hostile import HOSTILE, SOLIDS
from tests.web.test_api import bring
from tests.web.test_shelf import back, rewritten


def put(client: TestClient, job: dict[str, Any], name: str, data: bytes) -> Any:
    return client.post(f"/api/jobs/{job['id']}/items", files={"picture": (name, data)}, data={"revision": job["revision"]})


@pytest.mark.parametrize("name", [name for name in HOSTILE if name not in ("many rules", "a long path")])
def test_a_hostile_file_is_refused_with_a_sentence_and_the_job_stays(client: TestClient, badge: bytes, name: str) -> None:
    job = bring(client, badge)
    answer = put(client, job, "lines.dxf" if name.startswith(("dxf", "blocks", "a great")) else "lines.svg", HOSTILE[name])
    assert answer.status_code == 422 and answer.json()["code"].startswith(("lines", "svg", "dxf", "file")), answer.text
    assert answer.json()["message"].endswith(".")
    assert client.get(f"/api/jobs/{job['id']}").json()["document"] == job["document"]


def test_while_a_slow_file_is_read_other_pictures_come_in(client: TestClient, badge: bytes) -> None:
    job = bring(client, badge)
    answers: list[Any] = []
    slow = threading.Thread(target=lambda: answers.append(put(client, job, "long.svg", HOSTILE["a long path"])))
    slow.start()
    other = put(client, bring(client, badge), "solids.dxf", SOLIDS)
    assert other.status_code == 201, other.text
    assert slow.is_alive()
    slow.join()
    assert answers[0].status_code == 422


def forever() -> None:
    while True:
        pass


def memory() -> int:
    return len(bytearray(3 * 2**30))


def test_what_takes_too_long_or_too_much_is_ended(monkeypatch: pytest.MonkeyPatch) -> None:
    for work in (memory, forever):
        with pytest.raises(InputError) as refused:
            through_the_door(work)
        assert refused.value.code == "file_too_heavy"


def test_bodies_in_a_drawing_are_passed_over() -> None:
    circle, line = read_lines(SOLIDS).paths
    assert len(circle.segments) == 4 and len(line.segments) == 1


def test_a_plot_of_a_thousand_kilometres_is_refused() -> None:
    with pytest.raises(InputError, match="100 m"):
        tool_lines(b"IN;SP1;PU0,0;PD9999999999,9999999999;PU;SP0;")


def test_a_font_with_endless_outlines_is_refused() -> None:
    pen = TTGlyphPen(None)
    pen.moveTo((0, 0))
    for step in range(1, 30_000):
        pen.lineTo((step % 700, (step * 7) % 900))
    pen.closePath()
    builder = FontBuilder(1000, isTTF=True)
    builder.setupGlyphOrder([".notdef", "A"])
    builder.setupCharacterMap({65: "A"})
    builder.setupGlyf({".notdef": TTGlyphPen(None).glyph(), "A": pen.glyph()})
    builder.setupHorizontalMetrics({".notdef": (500, 0), "A": (700, 0)})
    builder.setupHorizontalHeader(ascent=900, descent=-200)
    builder.setupOS2(sCapHeight=700)
    builder.setupPost()
    builder.setupNameTable({"familyName": "Endless"})
    data = io.BytesIO()
    builder.save(data)
    with pytest.raises(SettingsError, match="segments, most of them in “A”"):
        lettering_rings(Lettering(text="AA", font="endless"), {"endless": (data.getvalue(),)})


def test_a_bundle_with_broken_members_or_no_document_is_refused(client: TestClient, badge: bytes) -> None:
    sound = client.get(f"/api/jobs/{bring(client, badge)['id']}/bundle").content
    for text in (b"[]", b"3", b"null", b"[" * 100_000, b'{"version": 5, "items": 7}'):
        answer = back(client, rewritten(sound, lambda files, text=text: files.update({"job.json": text})))
        assert answer.status_code == 422 and answer.json()["message"].endswith("."), text[:9]
    at = sound.index(b"job.json") + 60
    for method in (0, 12, 14, 99):  # stored, and kinds of packing under which these bytes are none
        broken = bytearray(sound[:at] + bytes(255 - byte for byte in sound[at : at + 20]) + sound[at + 20 :])
        for mark, place in ((b"PK\x03\x04", 8), (b"PK\x01\x02", 10)):
            start = broken.find(mark)
            while start >= 0:
                broken[start + place] = method or broken[start + place]
                start = broken.find(mark, start + 4)
        answer = back(client, bytes(broken))
        assert answer.status_code == 422 and answer.json()["code"] == "bundle_unreadable", method
