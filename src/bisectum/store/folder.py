"""The data folder: it belongs to one server at a time, since of two that tidy up each would take away what the other counts on;
and it has a name of its own, by which a page knows whether it speaks to the server that it came from."""

from __future__ import annotations

import fcntl
import os
import uuid
from pathlib import Path

from bisectum.core.errors import InputError
from bisectum.store.whole import write_whole

IN_USE = "in-use"
NAME = "name"


def hold(folder: Path, address: str) -> int:
    """Hold a folder until this process ends, however it ends. address: where it answers, for whoever comes second.

    Returns the open file that holds it. Raises: InputError where another process does.
    """
    handle = os.open(folder / IN_USE, os.O_RDWR | os.O_CREAT, 0o600)
    try:
        fcntl.lockf(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        other = os.read(handle, 200).decode("utf-8", "replace") or "another address"
        os.close(handle)
        raise InputError(f"The data folder {folder} is in use: Bisectum runs at {other}. Open that in the browser, or start with "
                         "another folder by --data.", code="folder_in_use", address=other) from error
    os.ftruncate(handle, 0)
    os.write(handle, address.encode())
    return handle


def name_of(folder: Path) -> str:
    """The folder's own name, given to it once; a copy of the folder keeps it. Raises: OSError."""
    path = folder / NAME
    if not path.exists() or not path.read_text("utf-8", "replace").isalnum():
        write_whole(path, uuid.uuid4().hex.encode())
    return path.read_text("utf-8")
