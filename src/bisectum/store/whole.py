"""Files written whole or not at all, and on the disk when that is said."""

from __future__ import annotations

import os
import uuid
from contextlib import suppress
from pathlib import Path

UNFINISHED = ".part-"


def write_whole(path: Path, data: bytes) -> None:
    """Write a file, in the place of one that is there. Raises: OSError; then nothing is left behind, and what was there stays."""
    beside = path.with_name(f"{UNFINISHED}{uuid.uuid4().hex}")
    try:
        with beside.open("xb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        beside.replace(path)
    except BaseException:
        with suppress(OSError):
            beside.unlink(missing_ok=True)
        raise
    sync_folder(path.parent)


def sync_folder(folder: Path) -> None:
    """Have the names in a folder on the disk. Raises: OSError."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
