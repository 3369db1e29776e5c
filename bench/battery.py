"""Whether every picture reaches a file: strangers' pictures, whole and cropped, small and large, as JPEG, in all builds, and
through every treatment of photographs.

Prints what was refused or broken, and the slowest. The third that is kept unseen is counted apart.
Run: make battery, or bench/battery.py WORD for the pictures whose names hold the word.
"""

from __future__ import annotations

import io
import sys
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pillow_heif
from numpy.typing import NDArray
from PIL import Image

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from bisectum.services.decode import decode
from tests.support.battery import BUILDS, TREATMENTS, Trial, tried
from tests.support.strangers import Stranger, compressed, cropped, resized, strangers

COUNTS = (0, 2, 3, 5, 8)
LARGE = ("coffee", "retina", "flower", "icon about", "page", "escape")  # what is tried with 12 megapixels too
SIZES = (200_000, 1_000_000, 12_000_000)
PHONES = ("coffee", "chelsea")  # what is tried as phones write it
PHONE_PX, PHONE_KINDS = (12_000_000, 48_000_000), ("JPEG", "HEIF")


def variants(stranger: Stranger, number: int) -> Iterator[tuple[str, NDArray[np.uint8]]]:
    rng = np.random.default_rng(number)
    rgba = stranger.load()
    yield stranger.name, resized(rgba, min(rgba.shape[0] * rgba.shape[1], SIZES[1]))
    yield f"{stranger.name} cropped", resized(cropped(rgba, rng), SIZES[0])
    yield f"{stranger.name} JPEG", compressed(resized(rgba, SIZES[0]), 70)
    if stranger.name in LARGE:
        yield f"{stranger.name} 12 MP", resized(rgba, SIZES[2])
    if stranger.name in PHONES:
        for most in PHONE_PX:
            for kind in PHONE_KINDS:
                yield f"{stranger.name} {most // 10**6} MP {kind}", as_a_phone_writes(resized(rgba, most), kind)


def as_a_phone_writes(rgba: NDArray[np.uint8], kind: str) -> NDArray[np.uint8]:
    """A picture written to a file and read from it. kind: JPEG or HEIF. Returns as many of its pixels as are worked on."""
    written = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(rgba[..., :3])).save(written, kind, quality=85)
    return decode(written.getvalue())[0].rgba


def show(title: str, trials: list[Trial]) -> None:
    broken = [trial for trial in trials if trial.faults]
    refused = [trial for trial in trials if trial.refusal]
    print(f"{title}: {len(trials)} files, {len(broken)} broken (0), {len(refused)} with nothing left to cut")
    for trial in broken:
        print(f"  {trial.name}: {trial.faults[0].strip()}" + (f" and {len(trial.faults) - 1} more" if trial.faults[1:] else ""))


def main() -> None:
    pillow_heif.register_heif_opener()
    word = sys.argv[1] if len(sys.argv) > 1 else ""
    seen: list[Trial] = []
    kept: list[Trial] = []
    for number, stranger in enumerate(strangers(24)):
        if word not in stranger.name:
            continue
        for turn, (name, rgba) in enumerate(variants(stranger, number)):
            cache: dict[str, object] = {}
            count = COUNTS[(number + turn) % len(COUNTS)]
            own = [tried(name, rgba, build, count, cache) for build in BUILDS]
            if turn < 2:
                own += [tried(name, rgba, "whole", 0, cache, treatment=treatment) for treatment in TREATMENTS]
            (kept if stranger.kept else seen).extend(own)
            for trial in own:
                if trial.faults:
                    print("!", trial.name, trial.faults[0].strip().splitlines()[-1], flush=True)
    show("to be tuned to", seen)
    show("kept unseen", kept)
    slowest = sorted([*seen, *kept], key=lambda trial: -trial.seconds)[:8]
    print("slowest:", "; ".join(f"{trial.name} {trial.seconds:.1f} s ({trial.pieces} pieces)" for trial in slowest))


if __name__ == "__main__":
    main()
