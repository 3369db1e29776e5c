"""A stopped order ends wherever the core computes, so that no function there has to look by itself whether it was stopped.

A timer interrupts the process ten times a second. Where the order was given up, Cancelled is raised right there, if what is being
done is the core's own work or a plain library's on its behalf: that leaves nothing half done, since the core owns no files and
keeps only finished results. Anywhere else (while a function is loaded, a file written) the next interruption is waited for.
"""

from __future__ import annotations

import signal
from collections.abc import Iterator
from contextlib import contextmanager
from multiprocessing.sharedctypes import Synchronized
from pathlib import Path
from types import FrameType
from typing import Any

import numpy as np
import shapely

from bisectum import core
from bisectum.core.errors import Cancelled

EVERY = 0.1  # seconds
CORE = str(Path(core.__file__).parent)
PLAIN = (str(Path(np.__file__).parent), str(Path(shapely.__file__).parent), "<string>", "<__array_function__")
IMPORTING = "<frozen importlib"
KEEPING = tuple(f"{CORE}/{name}" for name in ("cache.py", "raster/compiled.py"))  # what they begin they end


@contextmanager
def ringing(stopped: Synchronized[Any], number: int) -> Iterator[None]:
    """While an order is carried out, by the main thread. stopped: orders up to this number are given up. Raises: Cancelled."""
    def ring(_: int, frame: FrameType | None) -> None:
        if stopped.value >= number and _may_end(frame):
            raise Cancelled("Stopped.", code="cancelled")

    before = signal.signal(signal.SIGALRM, ring)
    signal.setitimer(signal.ITIMER_REAL, EVERY, EVERY)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)


def _may_end(frame: FrameType | None) -> bool:
    """Whether the core is at work, by itself or through a plain library, and nothing is being imported."""
    names = []
    while frame is not None:
        names.append(frame.f_code.co_filename)
        frame = frame.f_back
    own = next((name for name in names if not name.startswith(PLAIN)), "")
    return own.startswith(CORE) and own not in KEEPING and not any(name.startswith(IMPORTING) for name in names)
