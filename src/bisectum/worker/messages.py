"""What goes between the server and a computing process."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from bisectum.core.errors import BisectumError

Work = Callable[..., Any]
"""A module-level function; it is called with its arguments and then the progress to report to."""


@dataclass(frozen=True, slots=True)
class Order:
    number: int
    work: Work
    arguments: tuple[Any, ...]


@dataclass(frozen=True, slots=True)
class Step:
    """How far an order is, and what is being done for it."""

    number: int
    fraction: float
    what: str = ""


@dataclass(frozen=True, slots=True)
class Done:
    number: int
    result: Any


@dataclass(frozen=True, slots=True)
class Failed:
    """An error in plain values, since exceptions with own arguments do not travel well. traceback: of a defect, for the log."""

    number: int
    kind: type[BisectumError]
    code: str
    message: str
    details: dict[str, Any]
    traceback: str = ""

    def error(self) -> BisectumError:
        return self.kind(self.message, code=self.code, **self.details)
