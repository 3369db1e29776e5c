from __future__ import annotations

import shutil
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import Browser, Page, sync_playwright

from tests.conftest import free_port

CHROMIUM = "/usr/bin/chromium"
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
             "--disable-component-update", "--disable-sync"]




def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        if Path(__file__).parent in item.path.parents:
            item.add_marker(pytest.mark.timeout(300))
    # The longest files first, so that none is left for one process alone at the end.
    items.sort(key=lambda item: 0 if Path(__file__).parent in item.path.parents else 1 if "battery" in item.path.name else 2)


class Server:
    """Bisectum as a process of its own, which may be killed and started again on the same data."""

    def __init__(self, data: Path) -> None:
        self.data = data
        self.port = free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.start()

    def start(self) -> None:
        program = Path(sys.executable).with_name("bisectum")
        self.process = subprocess.Popen([program, "serve", "--port", str(self.port), "--data", str(self.data)])
        for _ in range(300):
            try:
                with urllib.request.urlopen(f"{self.address}/api/health"):
                    return
            except OSError:
                time.sleep(0.1)
        raise RuntimeError("Bisectum did not start")

    def kill(self) -> None:
        self.process.kill()
        self.process.wait()


@contextmanager
def serving(data: Path) -> Iterator[Server]:
    server = Server(data)
    yield server
    server.process.terminate()
    server.process.wait()


@pytest.fixture(scope="session")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """One for all walks of a process, whose shelf fills."""
    with serving(tmp_path_factory.mktemp("walk")) as server:
        yield server


@pytest.fixture(scope="session")
def pictures(pictures: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo's pictures, photographs with a quarter of their pixels: walks are about presses. One takes them at full size."""
    folder = tmp_path_factory.mktemp("pictures")
    for path in pictures.iterdir():
        with Image.open(path) as picture:
            dpi = picture.info.get("dpi", (96, 96))
            if path.name in ("kettle.jpg", "dog.jpg"):
                picture.reduce(2).save(folder / path.name, quality=92, dpi=(dpi[0] / 2, dpi[1] / 2))
            else:
                shutil.copy(path, folder)
    return folder


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        yield browser
        browser.close()


@pytest.fixture()
def page(browser: Browser, server: Server) -> Iterator[Page]:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
    page = context.new_page()
    troubles: list[str] = []
    page.on("pageerror", lambda error: troubles.append(str(error)))
    page.goto(server.address)
    yield page
    context.close()
    assert troubles == []
