"""A frame that is worth looking at, and the reason."""

from __future__ import annotations

from typing import Literal, NamedTuple, get_args

from izmet.core.document.edit import MomentKind

ProposalKind = Literal["flash", "impact", "cut", "start", "stop", "action"]
KINDS: tuple[ProposalKind, ...] = get_args(ProposalKind)
BECOMES: dict[ProposalKind, MomentKind] = {
    "flash": "impact",
    "impact": "impact",
    "cut": "action",
    "start": "start",
    "stop": "end",
    "action": "action",
}
"""The kind of moment that a proposal is when a person keeps it."""


class Proposal(NamedTuple):
    """A frame, what happens there, how much it counts (0..1), and the reason in words."""

    frame: int
    kind: ProposalKind
    weight: float
    why: str
