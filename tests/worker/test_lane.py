"""A lane: newest wins, stopping, and a process that dies."""

from __future__ import annotations

import os
import time
from collections.abc import Iterator

import pytest

from bisectum.core.errors import Cancelled, ComputationError, SettingsError
from bisectum.core.progress import Progress
from bisectum.worker.lane import Lane


def count_to(top: int, progress: Progress) -> int:
    for number in range(top):
        progress.raise_if_cancelled()
        progress.report(number / top)
        time.sleep(0.02)
    return top


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
    old = [lane.order("job-1", count_to, 500, on_step=steps.append) for _ in range(3)]
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
