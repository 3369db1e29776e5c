"""Things kept in memory as long as there is room, counted in bytes: the longest unused goes first."""

from __future__ import annotations

import dataclasses
import threading
from collections import OrderedDict
from collections.abc import Iterator, MutableMapping
from typing import Any

import numpy as np

SMALL = 200  # bytes, about what any Python object takes


def size_of(value: Any) -> int:
    """About how many bytes a value takes, the arrays and strings in it above all."""
    if isinstance(value, np.ndarray):
        return SMALL + int(value.nbytes)
    if isinstance(value, bytes | str):
        return SMALL + len(value)
    if isinstance(value, dict):
        return SMALL + sum(size_of(own) for own in value.values())
    if isinstance(value, list | tuple):
        return SMALL + sum(size_of(own) for own in value)
    if dataclasses.is_dataclass(value):
        return SMALL + sum(size_of(getattr(value, field.name)) for field in dataclasses.fields(value))
    return SMALL


class Kept(MutableMapping[str, Any]):
    """A mapping of at most `most` bytes. What is pinned stays, whatever else comes in. Safe between threads."""

    def __init__(self, most: int) -> None:
        self._most, self._bytes = most, 0
        self._entries: OrderedDict[str, tuple[Any, int]] = OrderedDict()
        self._pins: dict[str, int] = {}
        self._lock = threading.RLock()

    @property
    def bytes(self) -> int:
        """How much is kept now."""
        return self._bytes

    def __getitem__(self, key: str) -> Any:
        with self._lock:
            value, _ = self._entries[key]
            self._entries.move_to_end(key)
            return value

    def __setitem__(self, key: str, value: Any) -> None:
        size = size_of(value)
        with self._lock:
            self._drop(key)
            self._entries[key] = value, size
            self._bytes += size
            for old in list(self._entries):
                if self._bytes <= self._most:
                    break
                if old != key and old not in self._pins:
                    self._drop(old)

    def __delitem__(self, key: str) -> None:
        with self._lock:
            if key not in self._entries:
                raise KeyError(key)
            self._drop(key)

    def __contains__(self, key: object) -> bool:
        return key in self._entries

    def __iter__(self) -> Iterator[str]:
        with self._lock:
            return iter(list(self._entries))

    def __len__(self) -> int:
        return len(self._entries)

    def pin(self, key: str) -> None:
        """Keep an entry until it is unpinned as often as it was pinned."""
        with self._lock:
            self._pins[key] = self._pins.get(key, 0) + 1

    def unpin(self, key: str) -> None:
        with self._lock:
            left = self._pins.pop(key, 1) - 1
            if left > 0:
                self._pins[key] = left

    def limit(self, most: int) -> None:
        """Change how much is kept at most, from the next entry on."""
        self._most = most

    def _drop(self, key: str) -> None:
        _, size = self._entries.pop(key, (None, 0))
        self._bytes -= size
