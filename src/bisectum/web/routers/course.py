"""The course of a job: change a step, preview a change, get the result, its images and its edge view."""

from __future__ import annotations

import asyncio
import json
import queue
from collections.abc import AsyncIterator
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response, StreamingResponse

from bisectum.core.course import StepName
from bisectum.core.errors import NotFoundError
from bisectum.core.steps.background.settings import Touch
from bisectum.core.steps.layers.edge_view import Axis
from bisectum.services.progress_board import News
from bisectum.web.deps import BenchDep, JobId
from bisectum.web.schemas.jobs import JobOut, StepChange, StepPreview
from bisectum.web.schemas.results import BarOut, Dropped, ResultOut

router = APIRouter(prefix="/api", tags=["course"])
SeamPlace = Annotated[float, Query(ge=-1e6, le=1e6, allow_inf_nan=False)]
Place = Annotated[float, Query(ge=-100, le=100, allow_inf_nan=False)]
QUIET = 15.0  # seconds after which a sign of life is sent


@router.put("/jobs/{job_id}/steps/{step}")
def change_step(bench: BenchDep, job_id: JobId, step: StepName, body: StepChange) -> JobOut:
    """Change settings of one step: one revision, one undo."""
    return JobOut.of(bench.change(job_id, body.revision, step, body.settings))


@router.post("/jobs/{job_id}/steps/{step}/preview")
def preview_step(bench: BenchDep, job_id: JobId, step: StepName, body: StepPreview) -> ResultOut:
    """What a change would give, on a reduced picture. A newer request of the job ends older ones with 409."""
    return ResultOut.of(bench.preview(job_id, step, body.settings))


@router.post("/jobs/{job_id}/spot", response_class=Response)
def spot(bench: BenchDep, job_id: JobId, body: Touch) -> Response:
    """What a spot would take, as a PNG over the picture's frame. A newer question of the job ends older ones with 409."""
    return Response(bench.spot(job_id, body), media_type="image/png", headers={"Cache-Control": "no-store"})


@router.post("/jobs/{job_id}/ground", response_class=Response)
def ground(bench: BenchDep, job_id: JobId, body: StepPreview) -> Response:
    """The ground a change of the background would give, as a PNG over the picture's frame, before anything else is done."""
    return Response(bench.ground(job_id, body.settings), media_type="image/png", headers={"Cache-Control": "no-store"})


@router.get("/jobs/{job_id}/dropper")
def dropper(bench: BenchDep, job_id: JobId, x: Place, y: Place) -> Dropped:
    """The colour of the flat area at a place, shares of the width of the picture that came in; none beside it."""
    return Dropped(colour=bench.dropper(job_id, x, y))


@router.get("/jobs/{job_id}/result")
def result(bench: BenchDep, job_id: JobId) -> ResultOut:
    """The full result of the job as it stands; waits until it is there."""
    return ResultOut.of(bench.result(job_id))


@router.post("/jobs/{job_id}/stop", status_code=204)
def stop(bench: BenchDep, job_id: JobId) -> None:
    bench.stop(job_id)


@router.get("/results/{key}/edge")
def edge(bench: BenchDep, key: str, axis: Axis, at: SeamPlace) -> list[BarOut]:
    """The stack of films under an upright (x) or level (y) seam at a place in mm."""
    bars = bench.edge(key, axis, at)
    if bars is None:
        raise NotFoundError("This result is no longer kept.", code="result_missing")
    return [BarOut.of(bar) for bar in bars]


@router.get("/results/{key}/images/{image}", response_class=Response)
def image(bench: BenchDep, key: str, image: Literal["picture", "background", "colours"]) -> Response:
    """A state as a raster with transparency, PNG."""
    shown = bench.shown(key)
    if shown is None or image not in shown.outcome.images:
        raise NotFoundError("This result is no longer kept.", code="result_missing")
    return Response(shown.outcome.images[image], media_type="image/png",
                    headers={"Cache-Control": "private, max-age=31536000, immutable"})


@router.get("/jobs/{job_id}/progress", response_class=StreamingResponse)
async def progress(request: Request, bench: BenchDep, job_id: JobId) -> StreamingResponse:
    """Server-sent events: how far the work on the job is."""
    board = bench.progress
    watcher = board.watch(job_id)

    async def events() -> AsyncIterator[str]:
        silent = 0.0
        try:
            yield ": watching\n\n"
            while not await request.is_disconnected():
                try:
                    yield _event(watcher.get_nowait())
                    silent = 0.0
                except queue.Empty:
                    await asyncio.sleep(0.05)
                    silent += 0.05
                    if silent > QUIET:
                        silent = 0.0
                        yield ": still here\n\n"
        finally:
            board.leave(job_id, watcher)

    return StreamingResponse(events(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})


def _event(news: News) -> str:
    return f"data: {json.dumps({'state': news.state, 'fraction': round(news.fraction, 4), 'code': news.code})}\n\n"
