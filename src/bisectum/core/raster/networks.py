"""Small neural networks, read by OpenCV from bytes that are handed in.

Whoever runs the core says where the bytes come from, once in a process, by `provide`. Nothing is read before it is needed.
Where nothing was provided every network is silent, and the methods that need none do the work. A network keeps its state between
question and answer: only one thread of a process may ask.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    import cv2

NetworkName = Literal["subject-square", "subject-wide"]
Reader = Callable[[NetworkName], bytes]

_reader: Reader | None = None
_loaded: dict[NetworkName, cv2.dnn.Net] = {}


def provide(reader: Reader | None) -> None:
    """Say where the bytes of networks come from; None for nowhere. reader: gives the TensorFlow Lite file of a network."""
    global _reader
    _reader = reader
    _loaded.clear()


def are_provided() -> bool:
    return _reader is not None


def answer_of(name: NetworkName, rgb: NDArray[np.uint8]) -> NDArray[np.float32]:
    """What a network makes of a picture. rgb : (h, w, 3) uint8, of the size it takes.

    Raises: RuntimeError where no networks are provided.
    """
    import cv2

    network = _network(name)
    network.setInput(cv2.dnn.blobFromImage(np.ascontiguousarray(rgb), 1 / 255))
    return np.array(network.forward(), np.float32)  # copied: the next answer is written over the buffer


def _network(name: NetworkName) -> cv2.dnn.Net:
    import cv2

    if name not in _loaded:
        if _reader is None:
            raise RuntimeError("No networks are provided.")
        data = np.frombuffer(_reader(name), np.uint8)
        _loaded[name] = cv2.dnn.readNetFromTFLite(data)
    return _loaded[name]
