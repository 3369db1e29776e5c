"""What went wrong on the command line, as one sentence."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator

import typer
from pydantic import ValidationError

from bisectum.core.errors import BisectumError


@contextlib.contextmanager
def one_sentence() -> Iterator[None]:
    """Turn what went wrong into one sentence on stderr and exit code 2."""
    try:
        yield
    except BisectumError as error:
        refuse(error.message)
    except ValidationError as error:
        first = error.errors()[0]
        refuse(f"The value for {'.'.join(map(str, first['loc']))} does not fit: {first['msg'].lower()}.")
    except MemoryError:
        refuse("There is not enough memory for a picture of this size; make it smaller.")
    except typer.Exit:
        raise
    except Exception as error:  # a defect of ours
        refuse(f"Something went wrong inside Bisectum ({type(error).__name__}); nothing was written. Please report this.")


def refuse(sentence: str) -> None:
    typer.echo(sentence, err=True)
    raise typer.Exit(2)
