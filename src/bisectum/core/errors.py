"""The errors of Bisectum: one root, a stable code on each, a sentence a crafter understands.

    BisectumError
    ├── InputError          what came in cannot be used; `message` says what is wrong and what to do
    │   ├── PictureError    a picture that cannot be read, is too large, is empty
    │   ├── SettingsError   a setting outside its bounds, or one that fits no picture like this
    │   └── DocumentError   a job that was kept in a form that cannot be read here
    ├── NotFoundError       the job, revision or picture asked for is not there
    ├── ConflictError       the job has moved on since the change was begun
    ├── Cancelled           somebody stopped the work, or newer work replaced it
    ├── ComputationError    the work broke off: out of memory, out of time, the process died
    ├── StorageError        the disk is full, or the data folder cannot be written or read
    └── BrokenStructure     a structure fails its own `check()`; a defect in Bisectum, never the person's fault

`code` is stable and is what the interface translates; `details` carries the values for its sentence.
"""

from __future__ import annotations


class BisectumError(Exception):
    """Root of all errors raised on purpose. `code` is stable, `message` is plain English, `details` are JSON values."""

    code = "error"

    def __init__(self, message: str, *, code: str | None = None, **details: object) -> None:
        super().__init__(message)
        self.message = message
        self.details: dict[str, object] = details
        if code is not None:
            self.code = code


class InputError(BisectumError):
    code = "input"


class PictureError(InputError):
    code = "picture"


class SettingsError(InputError):
    code = "settings"


class DocumentError(InputError):
    code = "document"


class NotFoundError(BisectumError):
    code = "not_found"


class ConflictError(BisectumError):
    code = "conflict"


class Cancelled(BisectumError):
    code = "cancelled"


class ComputationError(BisectumError):
    code = "computation"


class StorageError(BisectumError):
    code = "storage"


class BrokenStructure(BisectumError):
    code = "broken_structure"
