"""The composition root: the only place that wires settings, store, worker and web together."""

from __future__ import annotations

import logging
import os
import socket
import sys
import threading
from contextlib import suppress
from logging.handlers import RotatingFileHandler
from pathlib import Path
from types import FrameType

import uvicorn
from fastapi import FastAPI

from bisectum.core.errors import BisectumError, InputError
from bisectum.services import compute
from bisectum.services.bench import Bench
from bisectum.services.demo import lay_out
from bisectum.services.fonts import FontCase
from bisectum.services.progress_board import ProgressBoard
from bisectum.services.results import BATCH, FULL, PREVIEW, Results
from bisectum.services.rooms import Rooms
from bisectum.services.scanner import Scanner
from bisectum.services.shelf import Shelf
from bisectum.services.stocks import StockRoom
from bisectum.settings import Settings
from bisectum.store.blobs import Blobs
from bisectum.store.carriers import Carriers
from bisectum.store.database import Database
from bisectum.store.flags import Flags
from bisectum.store.folder import hold, name_of
from bisectum.store.fonts import OwnFonts
from bisectum.store.jobs import Jobs
from bisectum.store.leavings import Leavings
from bisectum.store.stocks import Stocks
from bisectum.store.usage import Usages
from bisectum.web.app import create_app
from bisectum.worker.lane import Lane

HOST = "127.0.0.1"
OWN_FOLDER, OWN_FILES = 0o700, 0o077  # other users of the computer have no business in it
SHARES = {FULL: 0.55, PREVIEW: 0.2, BATCH: 0.05}  # of the memory; the rest is the server's


def make_bench(data: Path, memory_mb: int = 700, pictures: Path | None = None, address: str = "") -> Rooms:
    """Open or make the data folder, and hold it. pictures: the folder of the demo's pictures; address: where this process
    answers. Raises: InputError, StorageError."""
    try:
        data.mkdir(parents=True, exist_ok=True, mode=OWN_FOLDER)
        data.chmod(OWN_FOLDER)
        hold(data, address)
        folder = name_of(data)
        database = Database(data / "bisectum.sqlite")
        blobs = Blobs(database, data / "blobs")
    except OSError as error:
        raise InputError(f"The data folder {data} cannot be used: {error.strerror}.", code="data_folder") from error
    jobs, board, flags = Jobs(database), ProgressBoard(), Flags(database)
    most = memory_mb * 2**20
    lanes = {name: Lane(name, (compute.begin, (int(share * most),)), seldom=name == BATCH) for name, share in SHARES.items()}
    results = Results(jobs, blobs, lanes, board, int(most * (1 - sum(SHARES.values()))), data / "layouts")
    blobs.drop_unfinished()
    usages = Usages(database)
    bench = Bench(database, blobs, results, board, jobs, Leavings(database), usages)
    fonts = OwnFonts(database)
    shelf = Shelf(bench, jobs, blobs, fonts, pictures)
    threading.Thread(target=_begin, args=(shelf, bench), daemon=True).start()
    stock_room = StockRoom(Stocks(database), Carriers(database), flags, usages)
    return Rooms(bench, stock_room, FontCase(fonts, blobs), shelf, Scanner(pictures, data / "glass"), folder)


def _begin(shelf: Shelf, bench: Bench) -> None:
    """What is done beside the first requests."""
    with suppress(BisectumError):
        for sentence in shelf.look_through(quickly=True):
            logging.getLogger("bisectum").warning(sentence)
    shelf.sweep()
    bench.tidy()


def serve(demo: bool = False, port: int | None = None, data: Path | None = None) -> None:
    """Run the application until it is ended. Raises: InputError, StorageError."""
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    os.umask(OWN_FILES)
    settings = Settings()
    port, data = port or settings.port, data or settings.data
    if not (settings.front_end / "index.html").exists():
        raise InputError("The front end is not built yet; run make setup.", code="front_end_missing")
    if demo and not settings.demo_pictures.exists():
        raise InputError("The demo pictures are missing; run demo/make_pictures.py.", code="demo_missing")
    _refuse_taken(port)
    rooms = make_bench(data, settings.memory_mb, settings.demo_pictures, f"http://{HOST}:{port}/")
    log = _log_to(data)
    if demo:
        rooms.stock_room.lay_out_demo()
        threading.Thread(target=_lay_out, args=(rooms.bench, settings.demo_pictures), daemon=True).start()
    print(f"Bisectum is at http://{HOST}:{port}/ (Ctrl+C ends it)", flush=True)
    print(f"What goes wrong is written to {log}", flush=True)
    app = create_app(rooms, settings.front_end)
    _Server(uvicorn.Config(app, host=HOST, port=port, log_level="warning", timeout_graceful_shutdown=2), rooms.bench).run()


class _Server(uvicorn.Server):
    """Whoever waits for a result is told, before it is waited for that nobody waits."""

    def __init__(self, config: uvicorn.Config, bench: Bench) -> None:
        super().__init__(config)
        self._bench = bench

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        threading.Thread(target=self._bench.results.close, daemon=True).start()  # not here: the main thread may hold its locks
        super().handle_exit(sig, frame)


def _lay_out(bench: Bench, pictures: Path) -> None:
    try:
        lay_out(bench, pictures)
    except BisectumError as error:
        logging.getLogger("bisectum").exception("The demo could not be laid out")
        print(error.message, file=sys.stderr, flush=True)


def _log_to(data: Path) -> Path:
    """Write what goes wrong into the data folder, a few files of a megabyte each."""
    path = data / "bisectum.log"
    handler = RotatingFileHandler(path, maxBytes=2**20, backupCount=3, encoding="utf-8", delay=True)
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    logger = logging.getLogger("bisectum")
    logger.setLevel(logging.INFO)
    logger.addHandler(handler)
    return path


def api_description() -> FastAPI:
    """The application without anything behind it: what the front end's types are made from."""
    return create_app(None, None)


def _refuse_taken(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError as error:
            raise InputError(f"Port {port} is in use; choose another one with --port.", code="port_taken") from error
