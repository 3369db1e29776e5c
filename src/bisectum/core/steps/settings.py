"""What all steps' settings have in common."""

from __future__ import annotations

import hashlib

from pydantic import BaseModel, ConfigDict


class StepSettings(BaseModel):
    """Settings of one step: frozen, nothing unknown, nothing infinite. Every field has a title and bounds."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, json_schema_serialization_defaults_required=True)

    def digest(self) -> str:
        """The same for equal settings, whatever their order was when they came in."""
        return hashlib.sha256(self.model_dump_json().encode()).hexdigest()
