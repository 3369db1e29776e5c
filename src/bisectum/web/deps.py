"""What the routers are given."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Path, Request

from bisectum.services.bench import Bench


def _bench(request: Request) -> Bench:
    bench: Bench = request.app.state.bench
    return bench


BenchDep = Annotated[Bench, Depends(_bench)]
JobId = Annotated[int, Path(ge=1, le=2**63 - 1)]
