"""Close layouts that were found, kept in the data folder: the same make lies on its sheets as it did, and in the file as on the
screen."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator, MutableMapping
from pathlib import Path

from bisectum.core.steps.sheets.nest import Strip
from bisectum.services.files import write_whole

MOST = 2000  # kept; the ones longest unused go


class LayoutFolder(MutableMapping[str, Strip]):
    """A file for each layout, named by its key. What cannot be read is as if it was not there."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def _path(self, key: str) -> Path:
        return self._folder / f"{key}.json"

    def __getitem__(self, key: str) -> Strip:
        try:
            data = json.loads(self._path(key).read_text())
            strip = Strip(float(data["length"]), tuple((int(n), float(t), float(x), float(y)) for n, t, x, y in data["laid"]))
            os.utime(self._path(key))
        except (OSError, ValueError, KeyError, TypeError) as error:
            raise KeyError(key) from error
        return strip

    def __setitem__(self, key: str, strip: Strip) -> None:
        self._folder.mkdir(parents=True, exist_ok=True)
        write_whole(self._path(key), json.dumps({"length": strip.length, "laid": strip.laid}).encode())
        kept = sorted(self._folder.glob("*.json"), key=lambda path: path.stat().st_mtime)
        for path in kept[:-MOST]:
            path.unlink(missing_ok=True)

    def __delitem__(self, key: str) -> None:
        self._path(key).unlink(missing_ok=True)

    def __iter__(self) -> Iterator[str]:
        return (path.stem for path in self._folder.glob("*.json"))

    def __len__(self) -> int:
        return sum(1 for _ in self)
