"""Remembering what follows from parts that did not change.

Parts of an edit are immutable, and a command hands on those that it does not touch.
So a part that is *the same object* needs no second look, however much it holds: it
stands in a key by its identity, and is kept alive for as long as the key is.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

V = TypeVar("V")
Kept = tuple[tuple[object, ...], V]


class Memo(Generic[V]):
    """Values by what they depend on: the same parts, and equal facts.

    Between ``most`` and twice as many are kept. What was not asked for while ``most``
    others were is let go: as good as strict order of use, and a third of its cost.
    """

    def __init__(self, most: int):
        self._most = most
        self._young: dict[Hashable, Kept[V]] = {}
        self._old: dict[Hashable, Kept[V]] = {}
        self._lock = threading.Lock()

    def recall(self, parts: tuple[object, ...], facts: Hashable, make: Callable[[], V]) -> V:
        """The value kept for these parts and facts, made now when there is none.

        What ``make`` raises is not kept.
        """
        key = (*map(id, parts), facts)
        found = self._young.get(key)
        if found is not None:
            return found[1]
        found = self._old.get(key)
        return self._keep(key, (parts, make()) if found is None else found)

    def _keep(self, key: Hashable, kept: Kept[V]) -> V:
        with self._lock:
            # Another thread may have been quicker: all must hold the same object.
            kept = self._young.setdefault(key, kept)
            if len(self._young) >= self._most:
                self._young, self._old = {}, self._young
        return kept[1]
