"""How far a computation has come, and the way to stop it."""

from __future__ import annotations

from typing import Protocol


class Progress(Protocol):
    """Handed into every long computation, to be told how far it is. In a computing process what was stopped is interrupted from
    outside (`worker/bell.py`); elsewhere it ends at the next look."""

    def begin(self, what: str) -> None:
        """Say what is being done from here on: the name of a step."""

    def report(self, fraction: float) -> None:
        """Say how much is done, from 0 to 1."""

    def raise_if_cancelled(self) -> None:
        """Raises: Cancelled when somebody has stopped the work."""


class _Silent:
    def begin(self, what: str) -> None:
        return None

    def report(self, fraction: float) -> None:
        return None

    def raise_if_cancelled(self) -> None:
        return None


SILENT: Progress = _Silent()


class Part:
    """A stretch of a longer progress: reports 0..1 of the part as start..stop of the whole."""

    def __init__(self, whole: Progress, start: float, stop: float) -> None:
        self._whole, self._start, self._stop = whole, start, stop

    def begin(self, what: str) -> None:
        self._whole.begin(what)

    def report(self, fraction: float) -> None:
        self._whole.report(self._start + (self._stop - self._start) * min(1.0, max(0.0, fraction)))

    def raise_if_cancelled(self) -> None:
        self._whole.raise_if_cancelled()
