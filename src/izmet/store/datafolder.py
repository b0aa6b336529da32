"""Where everything lies: one folder, by default the user's own, ``IZMET_DATA`` to move it."""

from __future__ import annotations

import os
import shutil
from dataclasses import dataclass
from pathlib import Path

import platformdirs


@dataclass(frozen=True)
class DataFolder:
    """The data folder's layout. Only names made here, never a client's, become paths."""

    root: Path

    @classmethod
    def default(cls) -> DataFolder:
        """The folder that ``IZMET_DATA`` names, or the platform's own."""
        return cls(Path(os.environ.get("IZMET_DATA") or platformdirs.user_data_dir("izmet")).resolve())

    def prepare(self) -> DataFolder:
        """Create what is missing."""
        for folder in (self.root, self.assets, self.derived, self.incoming, self.exports, self.parts):
            folder.mkdir(parents=True, exist_ok=True)
        return self

    def clear_interrupted(self) -> None:
        """Remove what a killed upload, reading or export had begun. Call it before any of them can run."""
        for part in (*self.incoming.iterdir(), *self.exports.glob("*.part"), *self.parts.glob(".part-*")):
            part.unlink()
        for part in self.exports.glob(".parts-*"):
            shutil.rmtree(part)
        for part in self.derived.glob("*/.part-*"):
            shutil.rmtree(part)

    @property
    def database(self) -> Path:
        return self.root / "izmet.db"

    @property
    def assets(self) -> Path:
        return self.root / "assets"

    @property
    def derived(self) -> Path:
        return self.root / "derived"

    @property
    def incoming(self) -> Path:
        return self.root / "incoming"

    @property
    def exports(self) -> Path:
        return self.root / "exports"

    @property
    def parts(self) -> Path:
        return self.root / "parts"

    def trim_parts(self, budget: int) -> None:
        """Let rendered parts go, the least recently used first, until they fit into ``budget`` bytes."""
        kept = [(file.stat().st_mtime, file.stat().st_size, file) for file in self.parts.glob("*.nut")]
        for _, size, file in sorted(kept, reverse=True):
            budget -= size
            if budget < 0:
                file.unlink(missing_ok=True)
