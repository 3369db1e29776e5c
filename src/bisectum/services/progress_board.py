"""How far the work on each job is, for whoever watches."""

from __future__ import annotations

import queue
import threading
from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True, slots=True)
class News:
    """state: working at `fraction` on `what`, the name of a step; done, failed with an error's code, or gone: the job was taken
    off the shelf. moves: of the job, by which a page tells that it was changed elsewhere."""

    state: Literal["working", "done", "failed", "gone"]
    fraction: float = 0.0
    code: str = ""
    moves: int = 0
    what: str = ""


class Work:
    """One piece of work on a job, as the board sees it."""

    def __init__(self, board: ProgressBoard, job_id: int, moves: int) -> None:
        self._board, self._job_id, self._moves = board, job_id, moves

    def step(self, fraction: float, what: str = "") -> None:
        self._board.tell(self._job_id, News("working", fraction, moves=self._moves, what=what))

    def end(self) -> None:
        self._board.tell(self._job_id, News("done", 1.0, moves=self._moves))

    def fail(self, code: str) -> None:
        self._board.tell(self._job_id, News("failed", 0.0, code, self._moves))


class ProgressBoard:
    """Watchers get every piece of news of a job from the moment they begin to watch. ended: there will be no more."""

    def __init__(self) -> None:
        self.ended = False
        self._lock = threading.Lock()
        self._watchers: dict[int, list[queue.SimpleQueue[News]]] = {}

    def begin(self, job_id: int, moves: int = 0) -> Work:
        """Work on a state of a job begins."""
        work = Work(self, job_id, moves)
        work.step(0.0)
        return work

    def tell(self, job_id: int, news: News) -> None:
        with self._lock:
            watchers = list(self._watchers.get(job_id, ()))
        for watcher in watchers:
            watcher.put(news)

    def gone(self, job_id: int) -> None:
        """Tell whoever watches that the job is no more."""
        self.tell(job_id, News("gone"))

    def watch(self, job_id: int) -> queue.SimpleQueue[News]:
        watcher: queue.SimpleQueue[News] = queue.SimpleQueue()
        with self._lock:
            self._watchers.setdefault(job_id, []).append(watcher)
        return watcher

    def leave(self, job_id: int, watcher: queue.SimpleQueue[News]) -> None:
        """Watch no longer; leaving twice does nothing."""
        with self._lock:
            watchers = self._watchers.get(job_id, [])
            if watcher in watchers:
                watchers.remove(watcher)
            if not watchers:
                self._watchers.pop(job_id, None)

    def watched(self) -> int:
        """How many watchers there are."""
        with self._lock:
            return sum(len(watchers) for watchers in self._watchers.values())
