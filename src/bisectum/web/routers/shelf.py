"""The shelf as a whole: tags, copies, what was taken off, bundles."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Path, UploadFile
from fastapi.responses import FileResponse, Response

from bisectum.web.deps import BenchDep, ShelfDep
from bisectum.web.routers.export import handed_out
from bisectum.web.schemas.jobs import JobOut, JobSummaryOut
from bisectum.web.schemas.shelf import CopyOf, JobList, Tagging, Throwing

router = APIRouter(prefix="/api/shelf", tags=["shelf"])
SampleName = Annotated[str, Path(pattern=r"^[a-z-]{1,40}\.(png|jpg)$")]


@router.get("/thrown")
def list_thrown(bench: BenchDep) -> list[JobSummaryOut]:
    """Jobs that were taken off the shelf; after 30 days they are gone for good."""
    return [JobSummaryOut.of(job) for job in bench.jobs(thrown=True)]


@router.post("/thrown", status_code=204)
def throw(shelf: ShelfDep, body: Throwing) -> None:
    """Take jobs off the shelf, or put them back."""
    shelf.throw(body.jobs, body.thrown)


@router.get("/damage")
def damage(shelf: ShelfDep) -> list[str]:
    """What is damaged of all that is kept, a sentence for each thing, as it was seen at the start or when last looked for."""
    return list(shelf.damage)


@router.post("/damage")
def look_through(shelf: ShelfDep) -> list[str]:
    """Read all that is kept, and say what is damaged."""
    return list(shelf.look_through())


@router.post("/tags", status_code=204)
def tag(shelf: ShelfDep, body: Tagging) -> None:
    """Add words to jobs, and take others off."""
    shelf.tag(body.jobs, body.add, body.take_off)


@router.post("/copies", status_code=201)
def copy(shelf: ShelfDep, body: CopyOf) -> JobOut:
    """A job once more, under another name."""
    return JobOut.of(shelf.copy(body.job, body.name))


@router.get("/samples")
def samples(shelf: ShelfDep) -> list[str]:
    """Names of pictures to try it with."""
    return shelf.samples()


@router.get("/samples/{name}", response_class=FileResponse)
def sample(shelf: ShelfDep, name: SampleName) -> FileResponse:
    """A picture to try it with."""
    return FileResponse(shelf.sample(name))


@router.post("/samples/{name}", status_code=201)
def try_sample(shelf: ShelfDep, name: SampleName) -> JobOut:
    """A job of a picture to try it with."""
    return JobOut.of(shelf.try_sample(name))


@router.get("/bundle", response_class=Response)
def bundle_of_all(shelf: ShelfDep) -> Response:
    """All jobs as one ZIP archive."""
    return handed_out(*shelf.take_out_all())


@router.post("/bundle", response_class=Response)
def bundle_of_some(shelf: ShelfDep, body: JobList) -> Response:
    """Some jobs as one ZIP archive."""
    return handed_out(*shelf.take_out(body.jobs))


@router.post("/bundles", status_code=201)
def bring_back(shelf: ShelfDep, bundle: Annotated[UploadFile, File()]) -> list[JobOut]:
    """The jobs of a bundle, all of them or none."""
    return [JobOut.of(job) for job in shelf.bring_back(bundle.file)]
