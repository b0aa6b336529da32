"""The parent's side of the workers: start them, start them again when they die, end them."""

from __future__ import annotations

from collections.abc import Sequence

from izmet.farm.place import Place
from izmet.jobs.kinds import LONG
from izmet.processes import Hand
from izmet.store.datafolder import DataFolder

HANDS: tuple[Sequence[str], ...] = ((), LONG)
"""What each process does not do. One does no long work, so that what a person waits for never waits for an
export; and work that kills its process takes none along that is done beside it."""
WITH_FARM: tuple[Sequence[str], ...] = ((), (), (), LONG)
"""The same where others make the pictures: one that hands them out hardly works, so nobody's export waits."""


class Supervisor:
    """Keeps the worker processes of a data folder running."""

    def __init__(self, folder: DataFolder):
        environment = {"IZMET_DATA": str(folder.root)}
        self._hands = [
            Hand("izmet.jobs.worker", without, environment)
            for without in (HANDS if Place.given() is None else WITH_FARM)
        ]

    def start(self) -> None:
        """Start the workers."""
        for hand in self._hands:
            hand.start()

    def ring(self) -> None:
        """Tell the workers that there is work: they look for it by themselves too, but more seldom."""
        for hand in self._hands:
            hand.ring()

    def stop(self) -> None:
        """End the workers."""
        for hand in self._hands:
            hand.stop()
