"""Documents on their way to a computing process, without the marks of the brush that it has already.

A job may carry thousands of marks. A process keeps those it has seen, so a change sends the new ones only, and the digests
of all.
"""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from typing import Any

from bisectum.core.errors import ComputationError
from bisectum.core.job import JobDocument
from bisectum.core.steps.background.settings import Touch

FEWEST = 50  # marks from which it pays
MOST_KEPT = 50_000

_seen: OrderedDict[str, Touch] = OrderedDict()


@dataclass(frozen=True, slots=True)
class SentDocument:
    """A document with its marks apart. marks: of each item, by digest; new: those the process may not have."""

    document: JobDocument
    marks: dict[str, tuple[str, ...]]
    new: dict[str, Touch]

    def open(self) -> JobDocument:
        """The document as it was, in the process it was sent to. Raises: ComputationError where a mark is missing."""
        for digest, mark in self.new.items():
            _seen[digest] = mark
        document = self.document
        for item, digests in self.marks.items():
            try:
                touches = tuple(_seen[digest] for digest in digests)
            except KeyError as missing:
                raise ComputationError("A mark got lost on the way; it is sent again.", code="mark_missing") from missing
            for digest in digests:
                _seen.move_to_end(digest)
            document = document.with_step(item, "background", {"touches": touches})
        while len(_seen) > MOST_KEPT:
            _seen.popitem(last=False)
        return document


class Sender:
    """Knows which marks a process has. One for each lane."""

    def __init__(self) -> None:
        self._sent: set[str] = set()

    def send(self, document: JobDocument, whole: bool = False) -> SentDocument:
        """A document ready to go. whole: with every mark, for a process that was started anew."""
        marks: dict[str, tuple[str, ...]] = {}
        new: dict[str, Touch] = {}
        bare: Any = document
        if whole or len(self._sent) > MOST_KEPT:
            self._sent.clear()
        for item in document.pictures:
            touches = item.course.background.touches
            if len(touches) < FEWEST:
                continue
            marks[item.id] = tuple(touch.digest for touch in touches)
            new |= {touch.digest: touch for touch in touches if touch.digest not in self._sent}
            bare = bare.with_step(item.id, "background", {"touches": ()})
        self._sent.update(new)
        return SentDocument(bare, marks, new)
