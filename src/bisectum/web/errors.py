"""The one place where errors become answers: {code, message, details}."""

from __future__ import annotations

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import ValidationError
from starlette.exceptions import HTTPException

from bisectum.core.errors import BisectumError, Cancelled, ConflictError, InputError, NotFoundError

# The first class that fits decides.
STATUS: tuple[tuple[type[BisectumError], int], ...] = (
    (InputError, 422), (NotFoundError, 404), (ConflictError, 409), (Cancelled, 409), (BisectumError, 500),
)


def answer(status: int, code: str, message: str, details: object = None) -> JSONResponse:
    return JSONResponse({"code": code, "message": message, "details": details or {}}, status)


def install_errors(app: FastAPI) -> None:
    @app.exception_handler(BisectumError)
    def ours(_: Request, error: BisectumError) -> JSONResponse:
        status = next(status for kind, status in STATUS if isinstance(error, kind))
        return answer(status, error.code, error.message, error.details)

    @app.exception_handler(ValidationError)
    @app.exception_handler(RequestValidationError)
    def not_valid(_: Request, error: ValidationError | RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"] if part != "body")
        return answer(422, "settings", f"The value for {place} does not fit: {str(first['msg']).lower()}.", {"place": place})

    @app.exception_handler(HTTPException)
    def plain(_: Request, error: HTTPException) -> JSONResponse:
        return answer(error.status_code, "http", str(error.detail))
