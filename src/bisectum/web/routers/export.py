"""Files to carry to the cutter."""

from __future__ import annotations

from urllib.parse import quote

from fastapi import APIRouter
from fastapi.responses import Response

from bisectum.web.deps import BenchDep, JobId

router = APIRouter(prefix="/api/jobs", tags=["export"])


@router.get("/{job_id}/export.svg", response_class=Response)
def export_svg(bench: BenchDep, job_id: JobId) -> Response:
    """The plain SVG, read back and compared before it is handed over."""
    name, text = bench.export_svg(job_id)
    return Response(text, media_type="image/svg+xml",
                    headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}", "Cache-Control": "no-store"})
