"""A lane: one computing process and the orders waiting for it; of one group only the newest counts."""

from __future__ import annotations

import contextlib
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
PATIENCE = 3.0  # seconds a stopped order may take to stop before its process is ended
TIME_LIMIT = 600.0

OnStep = Callable[[float], None]


@dataclass(slots=True)
class _Waiting:
    number: int
    group: str
    work: Work
    arguments: tuple[Any, ...]
    on_step: OnStep | None
    future: Future[Any] = field(default_factory=Future)
    given_up: bool = False


class Lane:
    """Orders are carried out one at a time, oldest first. A newer order of a group replaces those before it."""

    def __init__(self, name: str) -> None:
        self._context = multiprocessing.get_context("spawn")
        self._stopped = self._context.Value("q", 0)
        self._condition = threading.Condition()
        self._waiting: list[_Waiting] = []
        self._running: _Waiting | None = None
        self._numbers = 0
        self._closed = False
        self._start_process()
        self._thread = threading.Thread(target=self._serve, name=name, daemon=True)
        self._thread.start()

    def order(self, group: str, work: Work, *arguments: Any, on_step: OnStep | None = None) -> Future[Any]:
        """Carry out work(*arguments, progress); the future gets its result, or Cancelled once it is replaced."""
        with self._condition:
            given_up = self._take_out(group)
            self._numbers += 1
            waiting = _Waiting(self._numbers, group, work, arguments, on_step)
            self._waiting.append(waiting)
            self._condition.notify_all()
        _fail(given_up, Cancelled("Replaced by a newer change.", code="superseded"))
        return waiting.future

    def stop(self, group: str) -> None:
        """Give up what is running or waiting of a group."""
        with self._condition:
            given_up = self._take_out(group)
        _fail(given_up, Cancelled("Stopped.", code="cancelled"))

    def close(self) -> None:
        with self._condition:
            self._closed = True
            self._condition.notify_all()
        self._process.terminate()
        self._process.join(2)

    def _take_out(self, group: str) -> list[_Waiting]:
        """Give up all orders of a group; what is running is told to stop. Returns those whose futures are to fail."""
        given_up = [waiting for waiting in self._waiting if waiting.group == group]
        self._waiting = [waiting for waiting in self._waiting if waiting.group != group]
        if self._running is not None and self._running.group == group:
            self._running.given_up = True
            self._stopped.value = self._running.number
            given_up.append(self._running)
        return given_up

    def _start_process(self) -> None:
        self._connection, theirs = self._context.Pipe()
        self._process = self._context.Process(
            target=main, args=(theirs, self._stopped, MOST_MEMORY, os.getpid()), daemon=True)
        self._process.start()
        theirs.close()

    def _serve(self) -> None:
        while True:
            with self._condition:
                while not self._waiting and not self._closed:
                    self._condition.wait()
                if self._closed:
                    return
                self._running = self._waiting.pop(0)
            try:
                self._carry_out(self._running)
            finally:
                with self._condition:
                    self._running = None

    def _carry_out(self, waiting: _Waiting) -> None:
        began, given_up_at = time.monotonic(), None
        try:
            self._connection.send(Order(waiting.number, waiting.work, waiting.arguments))
            while True:
                if self._connection.poll(0.2):
                    message = self._connection.recv()
                    if isinstance(message, Step):
                        if waiting.on_step is not None and not waiting.given_up:
                            waiting.on_step(message.fraction)
                        continue
                    _settle(waiting, message)
                    return
                now = time.monotonic()
                if waiting.given_up:
                    given_up_at = given_up_at or now
                if (given_up_at and now - given_up_at > PATIENCE) or now - began > TIME_LIMIT:
                    self._restart()
                    _fail([waiting], ComputationError("This took too long and was stopped. Make the picture smaller.",
                                                      code="took_too_long"))
                    return
                if not self._process.is_alive():
                    raise EOFError
        except (EOFError, OSError):
            if not self._closed:
                self._restart()
            _fail([waiting], ComputationError("The computation broke off, perhaps for want of memory. The job is as it was.",
                                              code="process_ended"))

    def _restart(self) -> None:
        with contextlib.suppress(OSError):
            self._process.kill()
            self._connection.close()
        self._process.join(2)
        self._start_process()


# Futures are settled without holding the lane's lock, since whoever waits on them may turn to the lane at once.


def _settle(waiting: _Waiting, message: Done | Failed) -> None:
    if isinstance(message, Failed):
        _fail([waiting], message.error())
    else:
        with contextlib.suppress(InvalidStateError):
            waiting.future.set_result(message.result)


def _fail(orders: list[_Waiting], error: BisectumError) -> None:
    for waiting in orders:
        with contextlib.suppress(InvalidStateError):
            waiting.future.set_exception(error)
