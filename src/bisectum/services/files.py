"""The one place that reads and writes files for the command line."""

from __future__ import annotations

from pathlib import Path

from bisectum.core.errors import InputError
from bisectum.store import whole


def read_file(path: Path) -> bytes:
    """Raises: InputError."""
    try:
        return path.read_bytes()
    except FileNotFoundError as error:
        raise InputError(f"There is no file “{path.name}” at that place; check the name.", code="file_missing") from error
    except IsADirectoryError as error:
        raise InputError(f"“{path.name}” is a folder; name a picture in it.", code="file_missing") from error
    except OSError as error:
        raise InputError(f"“{path.name[:80]}” cannot be read: {error.strerror}.", code="file_unreadable") from error


def make_folder(path: Path) -> None:
    """A folder, and those that it lies in. Raises: InputError."""
    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise InputError(f"There can be no folder “{path.name[:80]}” at that place: {error.strerror}.",
                         code="file_unwritable") from error


def write_whole(path: Path, data: bytes) -> None:
    """Write a file whole or not at all. Raises: InputError."""
    try:
        whole.write_whole(path, data)
    except OSError as error:
        raise InputError(f"“{path.name[:80]}” cannot be written: {error.strerror}.", code="file_unwritable") from error
