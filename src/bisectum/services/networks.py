"""The networks that ship with Bisectum; each file is read when it is first needed."""

from __future__ import annotations

from pathlib import Path

from bisectum.core.raster.networks import NetworkName, provide

FOLDER = Path(__file__).resolve().parents[1] / "networks"


def hand_in_networks() -> None:
    """Let the core of this process have them."""
    provide(_read)


def _read(name: NetworkName) -> bytes:
    return (FOLDER / f"{name}.tflite").read_bytes()
