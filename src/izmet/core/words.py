"""How is a count said?"""

from __future__ import annotations


def counted(count: int, what: str) -> str:
    """A count of something, its word in the singular or the plural."""
    return f"{count:,} {what}{'' if count == 1 else 's'}"
