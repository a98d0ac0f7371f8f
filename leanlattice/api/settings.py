"""Settings of the server, from the environment (``LEAN_LATTICE_PORT`` and so on) or the command
line."""

from __future__ import annotations

from pathlib import Path

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

__all__ = ["PROJECT_FOLDER", "Settings"]

PROJECT_FOLDER = Path(__file__).resolve().parents[2]


class Settings(BaseSettings):
    model_config = SettingsConfigDict(env_prefix="LEAN_LATTICE_")

    port: int = 8400
    data: Path = PROJECT_FOLDER / "data"
    interface: Path = PROJECT_FOLDER / "frontend" / "dist"
    demo_folder: Path = PROJECT_FOLDER / "demo"
    beginnings_folder: Path = PROJECT_FOLDER / "beginnings"
    demo: bool = False
    workers: int | None = None
    """Processes that compute at a time, as many as the machine has cores and memory for unless set;
    0 keeps statements without evaluating them."""
    worker_memory: int | None = Field(None, ge=300_000_000)
    """Bytes that each of them may take, by the machine's memory unless set."""
