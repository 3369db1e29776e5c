"""Small neural networks, run by OpenCV.

Whoever runs the core says where they come from, once in a process, by `provide`. None is read before it is needed.
Where nothing was provided every network is silent, and the methods that need none do the work. A network keeps its state between
question and answer: only one thread of a process may ask.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    import cv2

NetworkName = Literal["subject-square", "subject-wide", "face-near", "face-points"]
Reader = Callable[[NetworkName], "cv2.dnn.Net"]

_reader: Reader | None = None
_loaded: dict[NetworkName, cv2.dnn.Net] = {}


def provide(reader: Reader | None) -> None:
    """Say where networks come from; None for nowhere. reader: reads one by its name."""
    global _reader
    _reader = reader
    _loaded.clear()


def are_provided() -> bool:
    return _reader is not None


def answer_of(name: NetworkName, rgb: NDArray[np.uint8]) -> NDArray[np.float32]:
    """What a network with one answer makes of a picture. rgb : (h, w, 3) uint8, of the size it takes.

    Raises: RuntimeError where no networks are provided.
    """
    return _asked(name, rgb, ())[0]


def answers_of(
    name: NetworkName, rgb: NDArray[np.uint8], answers: Sequence[str], signed: bool = False
) -> list[NDArray[np.float32]]:
    """What a network with several answers makes of a picture, each flat, in the order of their names. rgb : (h, w, 3) uint8, of
    the size it takes; signed: it takes light from -1 to 1, not from 0.

    Raises: RuntimeError where no networks are provided.
    """
    return [answer.reshape(-1) for answer in _asked(name, rgb, answers, signed)]


def _asked(
    name: NetworkName, rgb: NDArray[np.uint8], answers: Sequence[str], signed: bool = False
) -> list[NDArray[np.float32]]:
    import cv2

    network = _network(name)
    scale, middle = (1 / 127.5, 127.5) if signed else (1 / 255, 0.0)
    network.setInput(cv2.dnn.blobFromImage(np.ascontiguousarray(rgb), scale, mean=(middle, middle, middle)))
    found = network.forward(answers) if answers else [network.forward()]
    return [np.array(answer, np.float32) for answer in found]  # copied: the next answer is written over the buffer


def _network(name: NetworkName) -> cv2.dnn.Net:
    if name not in _loaded:
        if _reader is None:
            raise RuntimeError("No networks are provided.")
        _loaded[name] = _reader(name)
    return _loaded[name]
