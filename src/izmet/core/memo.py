"""Remembering what follows from parts that did not change.

Parts of an edit are immutable, and a command hands on those that it does not touch.
So a part that is *the same object* needs no second look, however much it holds: it
stands in a key by its identity, and is kept alive for as long as the key is.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

from cachetools import LRUCache

V = TypeVar("V")
Kept = tuple[tuple[object, ...], V]


class Memo(Generic[V]):
    """Values by what they depend on: the same parts, and equal facts.

    What was not asked for the longest is let go when all together weigh more than ``most``.
    Without ``weigh`` each value weighs 1; with it what it says, such as bytes.
    """

    def __init__(self, most: int, weigh: Callable[[V], int] = lambda value: 1):
        self._weigh = weigh
        self._kept: LRUCache[Hashable, Kept[V]] = LRUCache(most, getsizeof=lambda kept: weigh(kept[1]))
        self._lock = threading.Lock()

    def recall(self, parts: tuple[object, ...], facts: Hashable, make: Callable[[], V]) -> V:
        """The value kept for these parts and facts, made now when there is none.

        What ``make`` raises is not kept, nor what alone weighs more than all may.
        """
        key = (*map(id, parts), facts)
        with self._lock:
            found = self._kept.get(key)
        return self._keep(key, (parts, make())) if found is None else found[1]

    def _keep(self, key: Hashable, made: Kept[V]) -> V:
        with self._lock:
            # Another thread may have been quicker: all must hold the same object.
            kept = self._kept.get(key)
            if kept is None and self._weigh(made[1]) <= self._kept.maxsize:
                self._kept[key] = made
        return (made if kept is None else kept)[1]
