from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

router = APIRouter(prefix="/api", tags=["health"])


class Health(BaseModel):
    status: str = "ok"


@router.get("/health")
def health() -> Health:
    return Health()
