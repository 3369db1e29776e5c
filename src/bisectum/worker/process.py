"""The computing process: takes orders one after the other, reports how far it is, stops when told."""

from __future__ import annotations

import os
import resource
import signal
import time
import traceback
from collections.abc import Callable
from multiprocessing.connection import Connection
from multiprocessing.sharedctypes import Synchronized
from typing import Any

from bisectum.core.errors import BisectumError, Cancelled, ComputationError
from bisectum.core.progress import SILENT
from bisectum.worker.bell import ringing
from bisectum.worker.messages import Done, Failed, Order, Step, Work

REPORT_EVERY = 0.05  # seconds
GIVING_WAY = 10  # how much nicer than others a process of a lane is that is seldom used

_low_memory: list[Callable[[], None]] = []


def on_low_memory(forget: Callable[[], None]) -> None:
    """Have `forget` called in this process when memory ran out, to drop what can be worked out again."""
    _low_memory.append(forget)


class _Reporter:
    """Progress of one order; orders up to the number in `stopped` are given up."""

    def __init__(self, connection: Connection, number: int, stopped: Synchronized[Any]) -> None:
        self._connection, self._number, self._stopped = connection, number, stopped
        self._last, self._what = 0.0, ""

    def begin(self, what: str) -> None:
        self._what, self._last = what, 0.0  # told at the next report, however short the step is

    def report(self, fraction: float) -> None:
        now = time.monotonic()
        if now - self._last >= REPORT_EVERY:
            self._last = now
            self._connection.send(Step(self._number, fraction, self._what))

    def raise_if_cancelled(self) -> None:
        if self._stopped.value >= self._number:
            raise Cancelled("Stopped.", code="cancelled")


def main(
    connection: Connection, stopped: Synchronized[Any], most_memory: int, parent: int,
    first: tuple[Work, tuple[Any, ...]] | None, gives_way: bool,
) -> None:
    """Run until the connection is closed. most_memory: bytes of address space. first: what is done before any order."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_AS, (most_memory, most_memory))
    if gives_way:
        os.nice(GIVING_WAY)
    if first is not None:
        first[0](*first[1], SILENT)
    while os.getppid() == parent:
        if not connection.poll(2.0):
            continue
        try:
            order = connection.recv()
            connection.send(_carry_out(order, connection, stopped))
        except (EOFError, OSError):  # the server has gone
            return


def _carry_out(order: Order, connection: Connection, stopped: Synchronized[Any]) -> Done | Failed:
    try:
        reporter = _Reporter(connection, order.number, stopped)
        reporter.raise_if_cancelled()
        with ringing(stopped, order.number):
            return Done(order.number, order.work(*order.arguments, reporter))
    except BisectumError as error:
        return Failed(order.number, type(error), error.code, error.message, error.details)
    except MemoryError:
        for forget in _low_memory:
            forget()
        return Failed(order.number, ComputationError, "out_of_memory",
                      "There is not enough memory for this picture. Make it smaller, then bring it in again.", {})
    except Exception:  # a defect: it must not take the process down
        return Failed(order.number, ComputationError, "defect",
                      "Something went wrong inside Bisectum. The job is as it was.", {}, traceback.format_exc())
