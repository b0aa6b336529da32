"""The doorbell: a huey queue on SQLite whose one task is "there is work, look at the rows"."""

from __future__ import annotations

from collections.abc import Callable

from huey import SqliteHuey

from izmet.store.datafolder import DataFolder


class Bell:
    """Rings for a data folder's workers."""

    def __init__(self, folder: DataFolder, answer: Callable[[], None] = lambda: None):
        self.huey = SqliteHuey(filename=str(folder.doorbell), results=False, timeout=5)

        def look() -> None:
            answer()

        self._task = self.huey.task()(look)

    def ring(self) -> None:
        """Wake a worker."""
        self._task()
