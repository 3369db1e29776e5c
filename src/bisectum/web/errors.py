"""The one place where errors become answers: {code, message, details}.

A person's mistake is 4xx and says what to do. A defect of ours is 500, says so, and shows nothing of its inside; the log has
it all.
"""

from __future__ import annotations

import logging

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import ValidationError
from starlette.exceptions import HTTPException

from bisectum.core.errors import BisectumError, Cancelled, ConflictError, InputError, NotFoundError, StorageError
from bisectum.core.text import one_line

LOG = logging.getLogger("bisectum.web")

# The first class that fits decides.
STATUS: tuple[tuple[type[BisectumError], int], ...] = (
    (InputError, 422), (NotFoundError, 404), (ConflictError, 409), (Cancelled, 409), (StorageError, 507), (BisectumError, 500),
)


def answer(status: int, code: str, message: str, details: object = None) -> JSONResponse:
    """Details that JSON cannot hold are left out."""
    try:
        return JSONResponse({"code": code, "message": message, "details": details or {}}, status)
    except (TypeError, ValueError, UnicodeError):
        return JSONResponse({"code": code, "message": one_line(message), "details": {}}, status)


def install_errors(app: FastAPI) -> None:
    @app.exception_handler(BisectumError)
    async def ours(_: Request, error: BisectumError) -> JSONResponse:
        status = next(status for kind, status in STATUS if isinstance(error, kind))
        if status == 500:
            LOG.error("Refused: %s", error.message, exc_info=error)
        return answer(status, error.code, error.message, error.details)

    @app.exception_handler(ValidationError)
    @app.exception_handler(RequestValidationError)
    async def not_valid(_: Request, error: ValidationError | RequestValidationError) -> JSONResponse:
        return answer(422, "settings", *sentence_of(error))

    @app.exception_handler(HTTPException)
    async def plain(_: Request, error: HTTPException) -> JSONResponse:
        said = "This request cannot be read." if error.status_code == 400 else str(error.detail)
        return answer(error.status_code, "http", said)

    @app.exception_handler(Exception)
    async def defect(request: Request, error: Exception) -> JSONResponse:
        LOG.error("A defect at %s %s", request.method, request.url.path, exc_info=error)
        return answer(500, "defect", "Something went wrong inside Bisectum. The job is as it was.")


def sentence_of(error: ValidationError | RequestValidationError) -> tuple[str, dict[str, str]]:
    """What of a request does not fit, as a sentence, with the place it is about."""
    first = error.errors(include_url=False, include_context=False, include_input=False)[0] if isinstance(
        error, ValidationError) else error.errors()[0]
    parts = [str(part) for part in first["loc"] if part not in ("body", "query", "path")]
    place = one_line(".".join(parts))[:80]
    said = one_line(str(first["msg"])).removeprefix("Value error, ").lower()
    if first["type"] in ("json_invalid", "json_type", "model_attributes_type", "dict_type"):
        return "This request cannot be read.", {"place": place}
    return (f"The value for {place} does not fit: {said}." if place else f"This does not fit: {said}."), {"place": place}
