from __future__ import annotations

from pydantic import Field

from bisectum.core.steps.settings import StepSettings


class LinesSettings(StepSettings):
    """The Lines step: how closely and how smoothly the cut lines follow the picture."""

    closeness_mm: float = Field(
        0.1, ge=0.005, le=2, title="How far a cut line may stray from the edge it follows",
        json_schema_extra={"unit": "mm", "step": 0.005},
    )
    corner_deg: float = Field(
        28, ge=10, le=80, title="A bend sharper than this is a corner", json_schema_extra={"unit": "°", "step": 1}
    )
