"""The program is ended while somebody waits for an answer."""

from __future__ import annotations

import contextlib
import signal
import subprocess
import sys
import threading
from pathlib import Path

import httpx

from tests.conftest import free_port, png
from tests.support.strangers import shipped


def test_ended_by_ctrl_c_it_says_nothing_and_keeps_nobody_waiting(tmp_path: Path) -> None:
    port = free_port()
    program = Path(sys.executable).with_name("bisectum")
    process = subprocess.Popen([program, "serve", "--port", str(port), "--data", tmp_path / "data"], text=True,
                               stdout=subprocess.PIPE, stderr=subprocess.STDOUT)
    assert process.stdout is not None and "Bisectum is at" in process.stdout.readline()
    with httpx.Client(base_url=f"http://127.0.0.1:{port}", transport=httpx.HTTPTransport(retries=40), timeout=60) as client:
        job = client.post("/api/jobs", files={"picture": ("gravel.png", png(shipped("gravel")))}).json()
        answers: list[int] = []

        def wait() -> None:
            with contextlib.suppress(httpx.HTTPError):
                answers.append(client.get(f"/api/jobs/{job['id']}/check").status_code)

        def watch() -> None:
            with contextlib.suppress(httpx.HTTPError), client.stream("GET", f"/api/jobs/{job['id']}/progress") as news:
                for _ in news.iter_lines():
                    pass

        waiting, watching = threading.Thread(target=wait), threading.Thread(target=watch)
        waiting.start()
        watching.start()
        waiting.join(1.0)
        assert waiting.is_alive()
        process.send_signal(signal.SIGINT)
        said, _ = process.communicate(timeout=20)
        waiting.join()
        watching.join()
    assert "Traceback" not in said and "ERROR" not in said, said
    assert answers and answers[0] < 500
