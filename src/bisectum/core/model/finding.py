"""A remark on a result: what the person should know, as a code with values. The wording is the interface's."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

from bisectum.core.errors import BrokenStructure

Severity = Literal["note", "warning", "fault"]
"""Worth knowing; worth looking at before cutting; must be mended before cutting."""


@dataclass(frozen=True, slots=True)
class Finding:
    """code: stable, the interface translates it. item: the id of the item it is about, empty for the whole make.

    at: where it is, mm on the page. value, limit: what was measured and what it is held against. repair: the code of a
    repair that the interface can offer. details: further values of its sentence.
    """

    code: str
    severity: Severity = "note"
    item: str = ""
    at: tuple[float, float] | None = None
    value: float | None = None
    limit: float | None = None
    repair: str | None = None
    details: dict[str, Any] = field(default_factory=dict)

    def check(self) -> None:
        """Raises: BrokenStructure where it has no code, or a limit with nothing held against it."""
        if not self.code:
            raise BrokenStructure("A finding has a code.")
        if self.limit is not None and self.value is None:
            raise BrokenStructure(f"The finding {self.code} has a limit and no value that is held against it.")
