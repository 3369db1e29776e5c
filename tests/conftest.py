from __future__ import annotations

import io
import socket
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from bisectum.main import make_bench
from bisectum.services.bench import Bench
from bisectum.services.rooms import Rooms
from bisectum.web.app import create_app
from tests.support.drawings import INK, circle, painted, turned_square

ROOT = Path(__file__).parents[1]


@pytest.fixture(scope="session")
def pictures() -> Path:
    return ROOT / "demo" / "pictures"


@pytest.fixture(scope="session")
def badge() -> bytes:
    """A small drawing as PNG: a blue square with a red disc, and a window in it."""
    shapes = [(turned_square(60, 60, 70, 0), INK), (circle(60, 60, 22), (200, 60, 40)), (circle(60, 60, 9), (255, 255, 255))]
    return png(painted(shapes, 120, 120))


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def png(rgba: np.ndarray, **options: object) -> bytes:
    buffer = io.BytesIO()
    Image.fromarray(rgba).save(buffer, "PNG", **options)
    return buffer.getvalue()


@pytest.fixture(scope="session")
def rooms(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Rooms]:
    rooms = make_bench(tmp_path_factory.mktemp("data"))
    yield rooms
    rooms[0].close()


@pytest.fixture(scope="session")
def bench(rooms: Rooms) -> Bench:
    return rooms[0]


@pytest.fixture(scope="session")
def client(rooms: Rooms) -> TestClient:
    return TestClient(create_app(rooms, None), base_url="http://127.0.0.1:8765")
