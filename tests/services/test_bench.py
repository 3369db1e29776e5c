"""The use cases, with the store and the computing processes behind them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from bisectum.core.course import CourseSettings, StepName
from bisectum.core.errors import Cancelled, InputError, NotFoundError, PictureError, SettingsError
from bisectum.core.formats.svg.read import read_svg
from bisectum.core.job import JobDocument
from bisectum.core.moves import Move, Stands, brought_to
from bisectum.services.bench import Bench, Edits, NewJob
from bisectum.services.demo import JOBS, lay_out
from bisectum.services.export import Wanted
from bisectum.services.kept import Kept
from bisectum.services.results import BATCH, FULL, PREVIEW, Shown
from bisectum.services.stocks import DEMO
from bisectum.store.jobs import Job
from tests.conftest import png

ITEM = "picture-1"


def grain(seed: int, side: int = 260) -> bytes:
    """A picture that takes a while."""
    rgba = np.full((side, side, 4), 255, np.uint8)
    rgba[..., :3] = np.kron(np.random.default_rng(seed).integers(0, 255, (side // 2, side // 2, 3)), np.ones((2, 2, 1)))
    return png(rgba)


def full(bench: Bench, job_id: int) -> Shown:
    return bench.results.of(bench.job(job_id)).result(60)


def preview(bench: Bench, job_id: int, step: StepName, settings: dict) -> Shown:
    return bench.results.preview(job_id, bench.edited(bench.job(job_id).document, ITEM, step, Edits(settings))).result(60)


def change(bench: Bench, job: Job, step: StepName, settings: dict) -> Job:
    return bench.change(job.id, job.revision, ITEM, step, Edits(settings))


def test_the_newest_preview_replaces_older_ones(bench: Bench) -> None:
    job = bench.new_job(grain(1, 160), "grain.png")
    with ThreadPoolExecutor(8) as pool:
        asked = [pool.submit(preview, bench, job.id, "colours", {"count": n}) for n in range(3, 9)]
        outcomes = [future.exception() for future in asked]
    assert outcomes.count(None) >= 1
    assert all(error is None or (isinstance(error, Cancelled) and error.code == "superseded") for error in outcomes)
    assert bench.job(job.id).document == job.document


def test_two_askers_share_one_run(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    orders: list[str | None] = []
    lane = bench.results._lanes[FULL]
    original = lane.order
    monkeypatch.setattr(lane, "order", lambda group, *rest, **named: (orders.append(group), original(group, *rest, **named))[1])
    job = bench.new_job(grain(2, 200), "grain.png")
    with ThreadPoolExecutor(4) as pool:
        shown = [future.result() for future in [pool.submit(full, bench, job.id) for _ in range(4)]]
    assert len({result.key for result in shown}) == 1
    assert orders == [f"job-{job.id}"]
    assert full(bench, job.id) is shown[0]


def test_two_tabs_may_ask_about_sheets_pieces_and_the_cutter_at_once(bench: Bench) -> None:
    """The same question is answered once for both, another sheet besides; and all of it can be stopped."""
    job = bench.new_job(grain(4, 120), "grain.png")
    full(bench, job.id)
    asks: list[Callable[[], Future[Any]]] = [
        lambda: bench.results.sheets(job), lambda: bench.results.check(job), lambda: bench.results.cut(job, "", 0),
        lambda: bench.results.pieces(job.id, job.document, ITEM)]
    asked = [(ask(), ask()) for ask in asks]
    other = bench.results.cut(job, "", 1)
    for one, two in asked:
        assert one is two and one.result(60) is not None
    assert not isinstance(other.exception(60), Cancelled)
    changed = bench.change_make(job.id, job.revision, "layers", Edits({"build": "flush"}))
    waits = bench.results.sheets(changed), bench.results.cut(changed, "", 0)
    bench.results.stop(job.id)
    assert all(isinstance(one.exception(30), Cancelled) for one in waits)
    assert bench.results.sheets(changed).result(60).sheets


def test_a_move_waits_for_work_that_another_tab_replaces_or_stops(bench: Bench) -> None:
    job = bench.new_job(grain(5, 420), "grain.png")
    with ThreadPoolExecutor(1) as pool:
        def wide(_: JobDocument, stands: Stands) -> Mapping[str, Move]:
            return brought_to(stands, ITEM, width=90.0)

        asked = pool.submit(bench.move_items, job.id, job.revision, wide, "sized")
        bench.results.stop(job.id)
        change(bench, bench.job(job.id), "lines", {"closeness_mm": 0.3})
        done = asked.result(90)
    assert done.document.picture(ITEM).course.picture.width_mm == 90.0
    assert done.document.picture(ITEM).course.lines.closeness_mm == 0.3


def test_stopped_work_can_be_taken_up_again(bench: Bench) -> None:
    job = bench.new_job(grain(3, 420), "grain.png")
    watcher = bench.progress.watch(job.id)
    with ThreadPoolExecutor(1) as pool:
        asked = pool.submit(full, bench, job.id)
        while watcher.get(timeout=20).fraction == 0:
            continue
        bench.results.stop(job.id)
        error = asked.exception(30)
    bench.progress.leave(job.id, watcher)
    assert isinstance(error, Cancelled) and error.code == "cancelled"
    assert full(bench, job.id).outcome.artwork.piece_count > 0


def test_a_bad_picture_leaves_no_file_behind(bench: Bench, badge: bytes) -> None:
    bench.new_job(badge, "badge.png")
    folder = bench._blobs._folder
    before = sorted(path.name for path in folder.rglob("*") if path.is_file())
    with pytest.raises(PictureError):
        bench.new_job(badge[:200], "cut-off.png")
    assert sorted(path.name for path in folder.rglob("*") if path.is_file()) == before


def test_names_of_jobs_and_files(bench: Bench, badge: bytes) -> None:
    job = bench.new_job(badge, "C:\\harbour\\my_first-badge.png")
    assert job.document.name == "my first badge"
    renamed = bench.rename(job.id, job.revision, "  Möwe & Boot / 2  ")
    assert renamed.document.name == "Möwe & Boot / 2"
    name, media_type, data = bench.export(job.id, Wanted("svg")).result(60)
    assert (name, media_type) == ("Möwe-Boot-2.svg", "image/svg+xml")
    assert [layer.title for layer in read_svg(data.decode()).layers] == ["Dark blue", "Red", "White"]
    for wrong in ("", "   ", "x" * 81):
        with pytest.raises(SettingsError):
            bench.rename(job.id, renamed.revision, wrong)


def test_two_jobs_of_one_picture_both_have_their_thumbnail(bench: Bench, badge: bytes) -> None:
    course = CourseSettings.model_validate({"picture": {"width_mm": 33.0}})
    one, other = (bench.new_job(badge, "badge.png", course=course) for _ in range(2))
    assert full(bench, one.id) is full(bench, other.id)
    assert bench.thumbnail(one.id) == bench.thumbnail(other.id) is not None
    changed = bench.change_make(one.id, one.revision, "layers", Edits({"build": "flush"}))
    full(bench, changed.id)
    back = bench.undo(one.id, changed.revision)
    full(bench, back.id)
    assert bench.thumbnail(one.id) == bench.thumbnail(other.id)


def test_a_deleted_job_is_gone_with_its_work(bench: Bench, badge: bytes) -> None:
    job = bench.new_job(badge, "badge.png")
    bench.delete(job.id)
    for ask in (bench.job, bench.history, bench.left, bench.thumbnail):
        with pytest.raises(NotFoundError):
            ask(job.id)


def test_images_and_edge_of_a_result(bench: Bench, badge: bytes) -> None:
    job = bench.new_job(badge, "badge.png", course=CourseSettings.model_validate({"picture": {"width_mm": 50.0}}))
    shown = full(bench, job.id)
    assert set(shown.outcome.items[0].images) == {"background", "colours"} and shown.outcome.thumbnail
    assert bench.results.shown(shown.key) is shown and bench.results.shown("nothing") is None
    bars = bench.results.edge(shown.key, "y", 25.0)
    assert bars is not None and max(bar.below for bar in bars) == 2
    assert bench.results.edge("nothing", "y", 25.0) is None
    seen = preview(bench, job.id, "lines", {"closeness_mm": 0.2})
    assert seen.preview and not seen.outcome.thumbnail
    assert set(bench.results._lanes) == {FULL, PREVIEW, BATCH}


def test_a_start_that_stops_while_the_demo_is_laid_out_leaves_no_part_of_it(
    tmp_path: Path, pictures: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from bisectum.main import make_bench

    fresh, *_ = make_bench(tmp_path / "data")
    kept = fresh._blobs.put
    try:
        for stop in range(len(JOBS)):
            put: list[int] = []

            def stopped(data: bytes, put: list[int] = put, stop: int = stop) -> str:
                if len(put) == stop:
                    raise KeyboardInterrupt
                put.append(1)
                return kept(data)

            monkeypatch.setattr(fresh._blobs, "put", stopped)
            with pytest.raises(KeyboardInterrupt):
                lay_out(fresh, pictures)
            assert fresh.jobs() == []
        monkeypatch.setattr(fresh._blobs, "put", kept)
        lay_out(fresh, pictures)
        assert len(fresh.jobs()) == len(JOBS)
    finally:
        fresh.close()


def test_the_demo_is_laid_out_once_and_only_on_an_empty_shelf(tmp_path: Path, pictures: Path) -> None:
    from bisectum.main import make_bench

    fresh, *_ = make_bench(tmp_path / "data")
    try:
        with pytest.raises(InputError):
            lay_out(fresh, tmp_path)
        lay_out(fresh, pictures)
        lay_out(fresh, pictures)
        assert [job.name for job in fresh.jobs()] == [job.name for job in reversed(JOBS)]
        lighthouse = full(fresh, fresh.jobs()[0].id).outcome
        assert lighthouse.artwork.width == pytest.approx(142)
        assert len(lighthouse.items[0].facts["background"]["enclosed"]) == 4
    finally:
        fresh.close()


def test_two_jobs_of_one_picture_do_not_take_each_others_results(bench: Bench) -> None:
    data = grain(30, 300)
    one, other = bench.new_job(data, "grain.png"), bench.new_job(data, "grain.png")
    waiting = bench.results.of(bench.job(other.id))
    change(bench, one, "lines", {"closeness_mm": 0.2})
    assert waiting.result(60).outcome.artwork.piece_count > 0


def test_twenty_uploads_of_one_picture_at_once_are_all_taken(bench: Bench, badge: bytes) -> None:
    with ThreadPoolExecutor(20) as pool:
        jobs = [future.result(60) for future in [pool.submit(bench.new_job, badge, "badge.png") for _ in range(20)]]
    assert len({job.id for job in jobs}) == 20 and len({job.document.items[0].source for job in jobs}) == 1


def test_a_missing_picture_is_told_to_all_who_wait(bench: Bench) -> None:
    job = bench.new_job(grain(31, 60), "grain.png")
    full(bench, job.id)
    bench._blobs._path(job.document.items[0].source).unlink()
    job = change(bench, job, "lines", {"closeness_mm": 0.25})
    for _ in range(3):
        with pytest.raises(NotFoundError) as missing:
            bench.results.of(job).result(10)
        assert missing.value.code == "blob_missing"


def test_results_on_an_older_state_give_way(bench: Bench) -> None:
    job = bench.new_job(grain(32, 300), "grain.png")
    newer = change(bench, job, "lines", {"closeness_mm": 0.3})
    with pytest.raises(Cancelled) as late:
        bench.results.of(job).result(10)
    assert late.value.code == "superseded"
    assert bench.results.of(newer).result(60).outcome.artwork.piece_count > 0


def test_another_picture_comes_in_and_everything_is_resized_together(bench: Bench, badge: bytes) -> None:
    job = bench.new_job(badge, "badge.png")
    job = bench.bring_in(job.id, job.revision, grain(33, 40), "grain.png")
    assert [item.id for item in job.document.items] == ["picture-1", "picture-2"]
    before = full(bench, job.id).outcome
    job = bench.resize(job.id, job.revision, 2 * before.artwork.width)
    after = full(bench, job.id).outcome
    assert after.artwork.width == pytest.approx(2 * before.artwork.width)
    for one, other in zip(before.items, after.items, strict=True):
        assert other.size == pytest.approx((2 * one.size[0], 2 * one.size[1]), rel=2e-3)
    assert bench.undo(job.id, job.revision).document.items[0].course.picture.width_mm is None
    with pytest.raises(PictureError):
        bench.bring_in(job.id, bench.job(job.id).revision, badge[:100], "bad.png")
    assert len(bench.job(job.id).document.items) == 2


def test_a_job_among_batches_is_brought_forward_when_it_is_opened(bench: Bench) -> None:
    first, second = bench.new_jobs([NewJob(grain(40, 200), "a.png"), NewJob(grain(41, 60), "b.png")])
    waiting = bench.results.of(second, seldom=True)
    began = bench.results.of(bench.job(second.id))
    assert began is waiting and began.result(60).outcome.artwork.piece_count > 0
    assert full(bench, first.id).outcome.artwork.piece_count > 0


def test_the_result_of_an_open_job_stays(bench: Bench, badge: bytes) -> None:
    job = bench.new_job(badge, "badge.png")
    bench.results.opened(job.id)
    shown = full(bench, job.id)
    kept, empty = bench.results._shown, replace(shown.outcome, rasters={}, thumbnail=b"")
    for number in range(60):
        kept[f"other {number}"] = Shown("", False, replace(empty, thumbnail=b"x" * (kept._most // 20)))
    assert bench.results.of(bench.job(job.id)).result() is shown
    name = shown.outcome.items[0].images["colours"]
    assert bench.results.raster(name) == shown.outcome.rasters[name] and bench.results.raster("nothing") is None
    bench.results.closed(job.id)
    for number in range(60):
        kept[f"another {number}"] = Shown("", False, replace(empty, thumbnail=b"x" * (kept._most // 20)))
    assert bench.results.shown(shown.key) is None
    for key in [key for key in kept if "other" in key]:
        del kept[key]


def test_marks_go_to_a_process_once_and_again_when_it_has_lost_them(bench: Bench, badge: bytes) -> None:
    job = bench.new_job(badge, "badge.png")
    touches = [{"kind": "clear", "points": [(0.3 + 0.001 * n, 0.3)], "width": 0.01} for n in range(60)]
    job = bench.change(job.id, job.revision, ITEM, "background", Edits({}, {"touches": touches}))
    share = full(bench, job.id).outcome.items[0].facts["background"]["share"]
    sender = bench.results._senders[FULL]
    assert sender.send(job.document).new == {}
    bench.results._lanes[FULL]._end_process()  # as if it had died
    again = change(bench, job, "background", {"halo": False})
    assert full(bench, again.id).outcome.items[0].facts["background"]["share"] == pytest.approx(share, abs=1e-3)


def test_what_is_kept_is_counted_in_bytes() -> None:
    kept = Kept(10_000)
    kept["pinned"] = np.zeros(4000, np.uint8)
    kept.pin("pinned")
    for number in range(20):
        kept[f"{number}"] = b"x" * 3000
    assert "pinned" in kept and "19" in kept and "0" not in kept and kept.bytes <= 10_000
    kept.unpin("pinned")
    kept["last"] = b"x" * 9000
    assert set(kept) == {"last"}
    del kept["last"]
    assert kept.bytes == 0 and kept.get("last") is None


def test_nothing_of_a_deleted_job_stays_on_the_disk(tmp_path: Path, badge: bytes) -> None:
    from bisectum.main import make_bench

    fresh, *_ = make_bench(tmp_path / "data")
    try:
        job = fresh.new_job(badge, "badge.png")
        full(fresh, job.id)
        assert {(path.stat().st_mode & 0o777) for path in (tmp_path, tmp_path / "data")} >= {0o700}
        fresh.delete(job.id)
        fresh.tidy()
        assert [path for path in (tmp_path / "data" / "blobs").rglob("*") if path.is_file()] == []
        assert fresh.freed > len(badge)
    finally:
        fresh.close()


def test_a_drawer_that_was_emptied_by_hand_stays_empty(tmp_path: Path) -> None:
    from bisectum.main import make_bench

    fresh, room, *_ = make_bench(tmp_path / "data")
    try:
        room.lay_out_demo()
        assert len(room.drawer().stocks) == len(DEMO)
        room.replace(room.drawer().version, ())
        room.lay_out_demo()
        assert room.drawer().stocks == ()
    finally:
        fresh.close()
