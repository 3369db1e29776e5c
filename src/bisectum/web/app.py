"""The web application: the API under /api, the front end for everything else."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import FileResponse, Response
from fastapi.staticfiles import StaticFiles

from bisectum.services.rooms import Rooms
from bisectum.web.errors import answer, install_errors
from bisectum.web.guard import Guard
from bisectum.web.routers import check, course, export, fonts, health, items, jobs, scanner, stocks, tryouts
from bisectum.web.routers import shelf as shelf_routes

POLICY = ("default-src 'self'; img-src 'self' blob: data:; font-src 'self'; style-src 'self' 'unsafe-inline'; "
          "connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'")


def create_app(rooms: Rooms | None, front_end: Path | None) -> FastAPI:
    """front_end: the folder of the built front end. Without rooms only the description of the API is of use."""

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        yield
        if rooms is not None:
            rooms.bench.close()

    app = FastAPI(title="Bisectum", version="0.1.0", lifespan=lifespan, openapi_url="/api/openapi.json", docs_url=None,
                  redoc_url=None)
    app.state.rooms = rooms
    app.add_middleware(Guard, folder=rooms.folder if rooms else "")
    install_errors(app)
    for router in (health.router, jobs.router, items.router, course.router, check.router, export.router, stocks.router,
                   tryouts.router, fonts.router, shelf_routes.router, scanner.router):
        app.include_router(router)
    if front_end is not None:
        _serve_front_end(app, front_end)
    return app


def _serve_front_end(app: FastAPI, folder: Path) -> None:
    app.mount("/assets", StaticFiles(directory=folder / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        if path.startswith("api/"):
            return answer(404, "no_such_address", "There is nothing at this address.")
        return FileResponse(folder / "index.html", headers={"Cache-Control": "no-cache", "Content-Security-Policy": POLICY})
