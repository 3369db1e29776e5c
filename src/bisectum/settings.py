"""The environment as frozen settings."""

from __future__ import annotations

from pathlib import Path

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

ROOT = Path(__file__).resolve().parents[2]


class Settings(BaseSettings):
    """Read from BISECTUM_… variables; the command line's options come before them."""

    model_config = SettingsConfigDict(env_prefix="BISECTUM_", frozen=True)

    data: Path = Field(default_factory=lambda: Path.home() / ".local" / "share" / "bisectum")
    # What may be kept in memory of pictures and results, over all processes; what a process itself takes comes on top.
    memory_mb: int = Field(700, ge=100, le=64_000)
    port: int = Field(8765, ge=1, le=65535)
    front_end: Path = ROOT / "web" / "dist"
    demo_pictures: Path = ROOT / "demo" / "pictures"
