"""A lane: one computing process and the orders waiting for it; of one group only the newest counts.

A group is what belongs together, the full results of one job say. Orders of a group carry a rank that only grows: an order
replaces those of no higher rank, and is itself refused where a higher one is there already. So work on an older state of a
job never takes the place of work on a newer one, in whatever order the requests come in.

Whatever happens, whoever waits for an order hears of it: results, refusals, a process that dies, a lane that is closed.
"""

from __future__ import annotations

import contextlib
import logging
import multiprocessing
import os
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, InvalidStateError
from dataclasses import dataclass, field
from typing import Any

from bisectum.core.errors import BisectumError, Cancelled, ComputationError
from bisectum.worker.messages import Done, Failed, Order, Step, Work
from bisectum.worker.process import main

MOST_MEMORY = 8 * 2**30
PATIENCE = 15.0  # seconds a stopped order may take to stop before its process is ended
TIME_LIMIT = 600.0
IDLE = 60.0  # seconds after which the process of a lane that is seldom used is ended
LOG = logging.getLogger("bisectum.worker")

OnStep = Callable[[float, str], None]


@dataclass(slots=True)
class _Waiting:
    number: int
    group: str | None
    rank: int
    work: Work
    arguments: tuple[Any, ...]
    on_step: OnStep | None
    future: Future[Any] = field(default_factory=Future)
    given_up: bool = False


class Lane:
    """Orders are carried out one at a time, oldest first."""

    def __init__(self, name: str, first: tuple[Work, tuple[Any, ...]] | None = None, seldom: bool = False) -> None:
        """first: what every new process does before its first order. seldom: the process gives way to others, is started when
        it is needed and ended when it is not."""
        self._name, self._first, self._seldom = name, first, seldom
        self._context = multiprocessing.get_context("spawn")
        self._stopped = self._context.Value("q", 0)
        self._condition = threading.Condition()
        self._waiting: list[_Waiting] = []
        self._running: _Waiting | None = None
        self._numbers = 0
        self._closed = False
        self._process: Any = None
        if not seldom:
            self._start_process()
        self._thread = threading.Thread(target=self._serve, name=name, daemon=True)
        self._thread.start()

    def order(
        self, group: str | None, work: Work, *arguments: Any, rank: int = 0, on_step: OnStep | None = None
    ) -> Future[Any]:
        """Carry out work(*arguments, progress).

        The future gets its result, or the error it raised, or Cancelled once it is replaced, stopped, or the lane is closed.
        group: None for an order that neither replaces another nor is replaced.
        """
        with self._condition:
            self._numbers += 1
            waiting = _Waiting(self._numbers, group, rank, work, arguments, on_step)
            late = self._closed or any(other.rank > rank for other in self._of(group))
            given_up = [waiting] if late else self._take_out(group)
            if not late:
                self._waiting.append(waiting)
                self._condition.notify_all()
        _fail(given_up, Cancelled("Bisectum is being ended.", code="ended") if self._closed
              else Cancelled("Replaced by a newer change.", code="superseded"))
        return waiting.future

    def stop(self, group: str) -> None:
        """Give up what is running or waiting of a group, and of those below it, "group/…"."""
        with self._condition:
            there = [*self._waiting, *([self._running] if self._running and not self._running.given_up else [])]
            given_up = self._give_up([one for one in there if f"{one.group}/".startswith(f"{group}/")])
        _fail(given_up, Cancelled("Stopped.", code="cancelled"))

    def stop_older(self, group: str, rank: int) -> None:
        """Give up orders of a group below a rank: what they would give is no longer wanted."""
        with self._condition:
            older = [waiting for waiting in self._of(group) if waiting.rank < rank]
            given_up = self._give_up(older)
        _fail(given_up, Cancelled("Replaced by a newer change.", code="superseded"))

    def close(self) -> None:
        """End the process. Whoever waits gets Cancelled."""
        with self._condition:
            self._closed = True
            left = [*self._waiting, *([self._running] if self._running else [])]
            self._waiting = []
            self._condition.notify_all()
        _fail(left, Cancelled("Bisectum is being ended.", code="ended"))
        self._end_process()

    def _of(self, group: str | None) -> list[_Waiting]:
        """What is running or waiting of a group, and has not been given up."""
        running = [self._running] if self._running is not None and not self._running.given_up else []
        return [waiting for waiting in (*self._waiting, *running) if group is not None and waiting.group == group]

    def _take_out(self, group: str | None) -> list[_Waiting]:
        """Give up all orders of a group; what is running is told to stop. Returns those whose futures are to fail."""
        return self._give_up(self._of(group))

    def _give_up(self, given_up: list[_Waiting]) -> list[_Waiting]:
        self._waiting = [waiting for waiting in self._waiting if waiting not in given_up]
        if self._running is not None and self._running in given_up:
            self._running.given_up = True
            self._stopped.value = self._running.number
        return given_up

    # The process

    def _start_process(self) -> None:
        self._connection, theirs = self._context.Pipe()
        self._process = self._context.Process(
            target=main, args=(theirs, self._stopped, MOST_MEMORY, os.getpid(), self._first, self._seldom), daemon=True)
        self._process.start()
        theirs.close()

    def _end_process(self) -> None:
        if self._process is None:
            return
        with contextlib.suppress(OSError):
            self._process.kill()
            self._connection.close()
        self._process.join(2)
        self._process = None

    # The lane's own thread

    def _serve(self) -> None:
        while True:
            with self._condition:
                while not self._waiting and not self._closed:
                    if not self._condition.wait(IDLE) and self._seldom:
                        self._end_process()
                if self._closed:
                    return
                self._running = self._waiting.pop(0)
            try:
                self._carry_out(self._running)
            except Exception:  # a defect of the lane itself must not leave everybody waiting for ever
                LOG.exception("The lane %s stumbled over an order", self._name)
                _fail([self._running], ComputationError("Something went wrong inside Bisectum. The job is as it was.",
                                                        code="defect"))
                self._end_process()
            finally:
                with self._condition:
                    self._running = None

    def _carry_out(self, waiting: _Waiting) -> None:
        if self._process is None:
            self._start_process()
        try:
            self._connection.send(Order(waiting.number, waiting.work, waiting.arguments))
            self._follow(waiting)
        except (EOFError, OSError):
            if not self._closed:
                LOG.warning("The process of the lane %s ended during an order", self._name)
                self._end_process()
            _fail([waiting], ComputationError("The computation broke off, perhaps for want of memory. The job is as it was.",
                                              code="process_ended"))

    def _follow(self, waiting: _Waiting) -> None:
        """Hear what the process says of an order until it is done. Raises: EOFError, OSError when the process has gone."""
        began, given_up_at = time.monotonic(), None
        while True:
            if self._connection.poll(0.2):
                message = self._connection.recv()
                if not isinstance(message, Step):
                    self._settle(waiting, message)
                    return
                if waiting.on_step is not None and not waiting.given_up:
                    waiting.on_step(message.fraction, message.what)
                continue
            now = time.monotonic()
            if waiting.given_up:
                given_up_at = given_up_at or now
            if (given_up_at and now - given_up_at > PATIENCE) or now - began > TIME_LIMIT:
                LOG.warning("An order of the lane %s did not stop and was ended", self._name)
                self._end_process()
                _fail([waiting], ComputationError("This took too long and was stopped. Make the picture smaller.",
                                                  code="took_too_long"))
                return
            if not self._process.is_alive():
                raise EOFError

    # Futures are settled without holding the lane's lock, since whoever waits on them may turn to the lane at once.

    def _settle(self, waiting: _Waiting, message: Done | Failed) -> None:
        if isinstance(message, Failed):
            if message.traceback:
                LOG.error("A defect in the lane %s:\n%s", self._name, message.traceback)
            _fail([waiting], message.error())
        else:
            with contextlib.suppress(InvalidStateError):
                waiting.future.set_result(message.result)


def _fail(orders: list[_Waiting], error: BisectumError) -> None:
    for waiting in orders:
        with contextlib.suppress(InvalidStateError):
            waiting.future.set_exception(error)
