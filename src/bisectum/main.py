"""The composition root: the only place that wires settings, store, worker and web together."""

from __future__ import annotations

import os
import socket
import threading
from pathlib import Path

import uvicorn
from fastapi import FastAPI

from bisectum.core.errors import InputError
from bisectum.services.bench import FULL, PREVIEW, Bench
from bisectum.services.demo import lay_out
from bisectum.services.progress_board import ProgressBoard
from bisectum.services.stocks import StockRoom
from bisectum.settings import Settings
from bisectum.store.blobs import Blobs
from bisectum.store.database import Database
from bisectum.store.jobs import Jobs
from bisectum.store.stocks import Stocks
from bisectum.web.app import create_app
from bisectum.worker.lane import Lane

HOST = "127.0.0.1"


def make_bench(data: Path) -> tuple[Bench, StockRoom]:
    """Open or make the data folder. Raises: InputError."""
    try:
        data.mkdir(parents=True, exist_ok=True)
        database = Database(data / "bisectum.sqlite")
        blobs = Blobs(database, data / "blobs")
    except OSError as error:
        raise InputError(f"The data folder {data} cannot be used: {error.strerror}.", code="data_folder") from error
    bench = Bench(Jobs(database), blobs, {FULL: Lane(FULL), PREVIEW: Lane(PREVIEW)}, ProgressBoard())
    return bench, StockRoom(Stocks(database))


def serve(demo: bool = False, port: int | None = None, data: Path | None = None) -> None:
    """Run the application until it is ended. Raises: InputError."""
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    settings = Settings()
    port = port or settings.port
    if not (settings.front_end / "index.html").exists():
        raise InputError("The front end is not built yet; run make setup.", code="front_end_missing")
    if demo and not settings.demo_pictures.exists():
        raise InputError("The demo pictures are missing; run demo/make_pictures.py.", code="demo_missing")
    _refuse_taken(port)
    bench, stock_room = make_bench(data or settings.data)
    if demo:
        stock_room.lay_out_demo()
        threading.Thread(target=lay_out, args=(bench, settings.demo_pictures), daemon=True).start()
    print(f"Bisectum is at http://{HOST}:{port}/ (Ctrl+C ends it)", flush=True)
    app = create_app(bench, stock_room, settings.front_end)
    uvicorn.run(app, host=HOST, port=port, log_level="warning", timeout_graceful_shutdown=2)


def api_description() -> FastAPI:
    """The application without anything behind it: what the front end's types are made from."""
    return create_app(None, None, None)


def _refuse_taken(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError as error:
            raise InputError(f"Port {port} is in use; choose another one with --port.", code="port_taken") from error
