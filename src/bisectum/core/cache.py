"""Results kept by what they came from, and the runner that looks for them there first.

A step's key is made of its name, the version of its method, its settings and the keys of what it takes in. So a change
runs on through the later steps only, and undo finds old results again.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator, MutableMapping
from typing import Any, TypeVar, cast

from bisectum.core.progress import Part, Progress

Cache = MutableMapping[str, Any]
T = TypeVar("T")


class Memory(MutableMapping[str, Any]):
    """A step's partial results, in a cache, under the key of what the step takes in."""

    def __init__(self, cache: Cache, taken: str) -> None:
        self._cache, self._taken = cache, taken

    def _name(self, part: str) -> str:
        return f"{part}/{self._taken}"

    def __getitem__(self, part: str) -> Any:
        return self._cache[self._name(part)]

    def __setitem__(self, part: str, value: Any) -> None:
        self._cache[self._name(part)] = value

    def __delitem__(self, part: str) -> None:
        del self._cache[self._name(part)]

    def __iter__(self) -> Iterator[str]:
        own = f"/{self._taken}"
        return (name.removesuffix(own) for name in self._cache if name.endswith(own))

    def __len__(self) -> int:
        return sum(1 for _ in self)


class Run:
    """One way through the steps. finished: for each result that had to be worked out the step it is part of, in their order."""

    def __init__(self, cache: Cache, progress: Progress) -> None:
        self.cache, self.progress = cache, progress
        self.finished: list[str] = []

    def step(
        self, name: str, version: int, settings: str, taken: str, stretch: tuple[float, float], work: Callable[[Progress], T]
    ) -> tuple[str, T]:
        """The result of a step and its key, from the cache or from `work`.

        settings: the digest of all that the result depends on beside `taken`, the keys of what goes in. stretch: the part of
        the whole progress it takes. Raises: Cancelled; what `work` raises.
        """
        self.progress.raise_if_cancelled()
        key = hashlib.sha256(f"{name}/{version}/{settings}/{taken}".encode()).hexdigest()
        if key in self.cache:
            result = cast(T, self.cache[key])
        else:
            self.progress.begin(name.split("/")[0])
            result = work(Part(self.progress, *stretch))
            self.cache[key] = result
            self.finished.append(name.split("/")[0])  # a part of a step is named after it
        self.progress.report(stretch[1])
        return key, result

    @property
    def fresh(self) -> tuple[str, ...]:
        """The steps of which something had to be worked out, each once."""
        return tuple(dict.fromkeys(self.finished))
