"""A frame that is worth looking at, and the reason."""

from __future__ import annotations

from typing import Literal, NamedTuple, get_args

ProposalKind = Literal["flash", "impact", "cut", "start", "stop", "peak"]
KINDS: tuple[ProposalKind, ...] = get_args(ProposalKind)


class Proposal(NamedTuple):
    """A frame, what happens there, how much it counts (0..1), and the reason in words."""

    frame: int
    kind: ProposalKind
    weight: float
    why: str
