"""A lane: newest wins, stopping, and a process that dies."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Iterator

import numpy as np
import pytest

from bisectum.core.errors import Cancelled, ComputationError, SettingsError
from bisectum.core.progress import Progress
from bisectum.core.raster.colour import oklab_image
from bisectum.worker import lane as lanes
from bisectum.worker.lane import Lane
from bisectum.worker.process import on_low_memory


def count_to(top: int, progress: Progress) -> int:
    for number in range(top):
        progress.raise_if_cancelled()
        progress.report(number / top)
        time.sleep(0.02)
    return top


def never_look(progress: Progress) -> None:
    progress.report(0.0)
    picture = np.zeros((40, 40, 3), np.uint8)
    while True:
        oklab_image(picture)


def keep_for(seconds: float, progress: Progress) -> int:
    """What is not the core's own work is done to its end."""
    progress.report(0.0)
    for _ in range(int(seconds / 0.01)):
        time.sleep(0.01)
    return os.getpid()


def fall(progress: Progress) -> None:
    progress.report(0.0)
    os._exit(3)


def refuse(progress: Progress) -> None:
    progress.report(0.0)
    raise SettingsError("No.", code="no", place=7)


def stumble(progress: Progress) -> None:
    progress.report(1 / int(progress is None))


@pytest.fixture(scope="module")
def lane() -> Iterator[Lane]:
    lane = Lane("test")
    yield lane
    lane.close()


def test_the_newest_of_a_group_wins(lane: Lane) -> None:
    steps: list[float] = []
    old = [lane.order("job-1", count_to, 500, on_step=lambda fraction, _: steps.append(fraction)) for _ in range(3)]
    other = lane.order("job-2", count_to, 1)
    time.sleep(0.3)
    new = lane.order("job-1", count_to, 2)
    assert new.result(20) == 2 and other.result(20) == 1
    for future in old:
        with pytest.raises(Cancelled) as error:
            future.result(5)
        assert error.value.code == "superseded"
    assert steps == sorted(steps)


def test_what_runs_can_be_stopped(lane: Lane) -> None:
    future = lane.order("job-3", count_to, 5000)
    time.sleep(0.3)
    began = time.monotonic()
    lane.stop("job-3")
    with pytest.raises(Cancelled):
        future.result(5)
    assert lane.order("job-4", count_to, 1).result(20) == 1
    assert time.monotonic() - began < 3


def test_the_core_is_stopped_where_it_never_looks_and_all_else_is_done_to_its_end(lane: Lane) -> None:
    """In the same process: it has not been ended for taking no notice."""
    own = lane.order("job-31", keep_for, 0.01).result(20)
    for work in ((never_look,), (keep_for, 0.5)):
        reports: list[float] = []
        future = lane.order("job-32", *work, on_step=lambda fraction, _, told=reports: told.append(fraction))
        while not reports:
            time.sleep(0.01)
        lane.stop("job-32")
        with pytest.raises(Cancelled):
            future.result(5)
        assert lane.order("job-33", keep_for, 0.01).result(10) == own


def test_errors_come_back_as_they_were(lane: Lane) -> None:
    with pytest.raises(SettingsError) as error:
        lane.order("job-5", refuse).result(20)
    assert (error.value.code, error.value.details) == ("no", {"place": 7})
    with pytest.raises(ComputationError) as defect:
        lane.order("job-5", stumble).result(20)
    assert defect.value.code == "defect"


def test_a_process_that_dies_is_replaced(lane: Lane) -> None:
    with pytest.raises(ComputationError) as error:
        lane.order("job-6", fall).result(30)
    assert error.value.code == "process_ended"
    assert lane.order("job-6", count_to, 1).result(30) == 1


def test_work_on_an_older_state_never_replaces_work_on_a_newer_one(lane: Lane) -> None:
    newer = lane.order("job-7", count_to, 40, rank=5)
    for rank in (3, 4):
        with pytest.raises(Cancelled) as late:
            lane.order("job-7", count_to, 1, rank=rank).result(5)
        assert late.value.code == "superseded"
    lane.stop_older("job-7", 5)
    assert newer.result(20) == 40
    given_up = lane.order("job-7", count_to, 500, rank=6)
    lane.stop_older("job-7", 7)
    with pytest.raises(Cancelled):
        given_up.result(5)


def test_orders_without_a_group_leave_each_other_alone(lane: Lane) -> None:
    assert [future.result(30) for future in [lane.order(None, count_to, 2) for _ in range(20)]] == [2] * 20


def test_a_lane_outlives_what_goes_wrong_about_an_order(lane: Lane) -> None:
    unsendable = lane.order("job-8", count_to, threading.Lock())
    with pytest.raises(ComputationError):
        unsendable.result(20)

    def stumble_over_news(_: float, __: str) -> None:
        raise ZeroDivisionError

    with pytest.raises(ComputationError):
        lane.order("job-8", count_to, 20, on_step=stumble_over_news).result(20)
    assert lane.order("job-8", count_to, 1).result(30) == 1


def test_a_closed_lane_tells_all_who_wait() -> None:
    lane = Lane("closing")
    waiting = [lane.order(f"job-{number}", count_to, 5000) for number in range(3)]
    time.sleep(0.5)
    lane.close()
    for future in (*waiting, lane.order("job-9", count_to, 1)):
        with pytest.raises(Cancelled) as ended:
            future.result(5)
        assert ended.value.code == "ended"


kept: list[bytes] = []
on_low_memory(kept.clear)


def keep(count: int, progress: Progress) -> int:
    kept.append(b"x" * count)
    return len(kept)


def run_out(progress: Progress) -> None:
    raise MemoryError


def test_running_out_of_memory_drops_what_is_kept(lane: Lane) -> None:
    assert [lane.order("job-10", keep, 10).result(20) for _ in range(2)] == [1, 2]
    with pytest.raises(ComputationError) as error:
        lane.order("job-10", run_out).result(20)
    assert error.value.code == "out_of_memory"
    assert lane.order("job-10", keep, 10).result(20) == 1


def process(progress: Progress) -> tuple[int, int]:
    return os.getpid(), os.nice(0)


def test_a_lane_that_is_seldom_used_gives_way_and_has_no_process_while_it_is_not(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(lanes, "IDLE", 0.3)
    lane = Lane("seldom", seldom=True)
    try:
        assert lane._process is None
        first, nice = lane.order("job-11", process).result(30)
        assert nice > os.nice(0)
        for _ in range(100):
            if lane._process is None:
                break
            time.sleep(0.1)
        assert lane._process is None
        assert lane.order("job-11", process).result(30)[0] != first
    finally:
        lane.close()


def test_a_defect_is_logged_and_not_shown(lane: Lane, caplog: pytest.LogCaptureFixture) -> None:
    with pytest.raises(ComputationError) as defect:
        lane.order("job-12", stumble).result(20)
    assert "ZeroDivision" not in defect.value.message
    assert "ZeroDivisionError" in caplog.text and "test_lane.py" in caplog.text
