"""The manifest of a pack: every file with its size and hash, so that a folder holds one pack and no
other."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from .. import __version__

__all__ = ["MANIFEST", "differences", "removed_before", "write_manifest"]

MANIFEST = "manifest.json"
OURS = (
    "*.csv",
    "statement.json",
    "report.json",
    "checks.json",
    MANIFEST,
    "model.*",
    "solids.*",
    "shape.step",
    "bodies.step",
    "hubs.step",
    "wireframe.dxf",
    "drawings.pdf",
    "curves-*.dxf",
    "curves-*.svg",
    "sheets/sheet-*",
    "parts/*.dxf",
    "machine/*.nc1",
    "machine/*.btlx",
)
"""What earlier packs may have left, those without a manifest too."""


def _digest(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest()


def _files(folder: Path) -> list[Path]:
    return sorted(p for p in folder.rglob("*") if p.is_file() and p != folder / MANIFEST)


def _name(folder: Path, path: Path) -> str:
    return path.relative_to(folder).as_posix()


def removed_before(folder: Path) -> list[str]:
    """Takes away what an earlier pack left in a folder; gives the names of files that are not of a
    pack and stay."""
    own = {path for pattern in OURS for path in folder.glob(pattern) if path.is_file()}
    known = _read(folder)
    own |= {
        folder / f["path"]
        for f in known.get("files", [])
        if _within(folder, str(f.get("path", "")))
    }
    for path in own:
        path.unlink(missing_ok=True)
    for path in sorted((p for p in folder.rglob("*") if p.is_dir()), reverse=True):
        if not any(path.iterdir()):
            path.rmdir()
    return [_name(folder, p) for p in _files(folder)]


def _within(folder: Path, name: str) -> bool:
    return (folder / name).resolve().is_relative_to(folder.resolve())


def _read(folder: Path) -> dict[str, Any]:
    try:
        found = json.loads((folder / MANIFEST).read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    return found if isinstance(found, dict) else {}


def write_manifest(folder: Path, foreign: list[str]) -> None:
    """Lists all files of a pack but those that were there before and are not of it."""
    files = [
        {"path": _name(folder, p), "size": p.stat().st_size, "sha256": _digest(p)}
        for p in _files(folder)
        if _name(folder, p) not in foreign
    ]
    content = {
        "program": f"Lean Lattice {__version__}",
        "statement_sha256": _digest(folder / "statement.json"),
        "revision": "",
        "files": files,
    }
    text = json.dumps(content, ensure_ascii=False, indent=2) + "\n"
    (folder / MANIFEST).write_text(text, encoding="utf-8")


def differences(folder: Path) -> Iterator[str]:
    """Every file that is not as the manifest says, or is not in it, in words."""
    manifest = _read(folder)
    if not manifest:
        yield f"{MANIFEST} is missing or cannot be read"
        return
    listed = {str(f["path"]): f for f in manifest.get("files", [])}
    there = {_name(folder, p) for p in _files(folder)}
    for name, entry in listed.items():
        if name not in there:
            yield f"{name} is missing"
        elif (folder / name).stat().st_size != entry["size"] or _digest(folder / name) != entry[
            "sha256"
        ]:
            yield f"{name} is not as it was written"
    for name in sorted(there - set(listed)):
        yield f"{name} is not of this pack"
    statement = listed.get("statement.json", {})
    if manifest.get("statement_sha256") != statement.get("sha256"):
        yield f"{MANIFEST} is of another statement"
