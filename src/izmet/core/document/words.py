"""How is a count said, and a name shown?"""

from __future__ import annotations

from unicodedata import category


def one_line(name: str) -> str:
    """A name as it can be shown and handed to other programs: control characters are spaces in it."""
    return "".join(" " if category(character) == "Cc" else character for character in name)


def counted(count: int, what: str) -> str:
    """A count of something, its word in the singular or the plural."""
    return f"{count:,} {what}{'' if count == 1 else 's'}"
