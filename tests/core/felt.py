"""Accents in few words."""

from izmet.core.commands import AddAccent

TIMING = {"phase", "lead", "hold", "tail", "unit", "rise", "fall", "by_strength", "by_speed", "runs"}


def accent(
    kind: str, *, n: int | None = None, cue: str | None = None, at: object = None, **values
) -> AddAccent:
    """The command that adds one, on an output frame, on a cue, or wherever else it is said."""
    place = at or ({"to": "cues", "cues": [cue]} if cue else {"to": "frame", "n": n})
    timing = {name: value for name, value in values.items() if name in TIMING}
    what = {"kind": kind} | {name: value for name, value in values.items() if name not in TIMING}
    return AddAccent.model_validate({"at": place, "what": what} | timing)
