"""What all steps' settings have in common."""

from __future__ import annotations

import hashlib
from functools import cached_property
from typing import Any, Self

from pydantic import BaseModel, ConfigDict

DIGITS = 32  # of a digest: 128 bits


class StepSettings(BaseModel):
    """Settings of one step: frozen, nothing unknown, nothing infinite. Every field has a title and bounds."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, json_schema_serialization_defaults_required=True)

    @cached_property
    def digest(self) -> str:
        """The same for equal settings, whatever their order was when they came in. Worked out once for each object."""
        return self.digest_without()

    def with_digest(self, digest: str) -> Self:
        """The same, its digest known already, so that it need not be worked out."""
        self.__dict__["digest"] = digest
        return self

    def digest_without(self, *names: str) -> str:
        """The digest of all but some fields: for results that these fields do not touch."""
        parts = {name for name in type(self).model_fields if _holds_settings(getattr(self, name))} - set(names)
        digest = hashlib.sha256(self.model_dump_json(exclude=parts | set(names)).encode())
        for name in sorted(parts):
            digest.update(f"/{name}/{_digest_of(getattr(self, name))}".encode())
        return digest.hexdigest()[:DIGITS]

    def with_fields(self, fields: dict[str, Any]) -> Any:
        """A copy with some fields replaced. What stays is not validated anew. Raises: pydantic.ValidationError."""
        kept = {name: getattr(self, name) for name in type(self).model_fields}
        return type(self).model_validate(kept | fields)


def _holds_settings(value: object) -> bool:
    return isinstance(value, StepSettings) or (isinstance(value, tuple) and bool(value) and isinstance(value[0], StepSettings))


def _digest_of(value: Any) -> str:
    return value.digest if isinstance(value, StepSettings) else ",".join(one.digest for one in value)
