"""Sounds laid on cues, ties and cuts; and how loud the song is in the course of the edit."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from izmet.core.document.accents import Anchor
from izmet.core.document.limits import LONGEST_SOUND, MOST_SECONDS
from izmet.core.document.places import Pin
from izmet.core.document.values import Easing, Frozen, Id, Media, Seed, Share

QUIETEST = -60.0
"""dB that count as silence where a level is set as a whole."""
Decibels = Annotated[float, Field(ge=QUIETEST, le=24, description="dB, 0 as recorded")]
MadeName = Literal["boom", "drop", "click", "whoosh", "riser", "swell"]
RISING: frozenset[MadeName] = frozenset({"whoosh", "riser", "swell"})
"""Those that lead up to their place: in a stretch they are as long as that."""
Seconds = Annotated[float, Field(ge=0, le=LONGEST_SOUND, description="seconds")]


class Made(Frozen):
    """A sound that comes along, as long as it is asked to be; its noise is drawn from a ``seed``."""

    kind: Literal["made"] = "made"
    name: MadeName
    length: Annotated[float, Field(gt=0, le=LONGEST_SOUND)] = 1.0
    unit: Literal["seconds", "beats"] = "seconds"
    seed: Seed = 0


class Recorded(Frozen):
    """A file that is heard whole. Its ``attack`` is the instant that is felt as its beginning."""

    kind: Literal["file"] = "file"
    media: Media
    duration: Annotated[float, Field(gt=0, le=MOST_SECONDS, description="seconds")]
    attack: Annotated[float, Field(ge=0, le=MOST_SECONDS, description="seconds")] = 0.0

    @model_validator(mode="after")
    def _inside(self) -> Self:
        if self.attack >= self.duration:
            raise ValueError("the attack of a sound lies within it")
        return self


class Duck(Frozen):
    """The song gives way: by so many dB, come to over ``attack`` before the place, kept for ``hold`` after
    it, and over again after ``release``."""

    by: Annotated[float, Field(gt=0, le=60, description="dB")] = 6.0
    attack: Seconds = 0.05
    hold: Seconds = 0.1
    release: Seconds = 0.4


class Sound(Frozen):
    """A sound at one place or at many.

    What of it ``lands`` there is its attack or its end; ``exact`` on the cue itself, or on the frame on which
    the cue lands. It follows the strength of its cue ``by_strength``.
    """

    id: Id
    what: Annotated[Made | Recorded, Field(discriminator="kind")]
    at: Anchor
    on: bool = True
    level: Decibels = 0.0
    by_strength: Share = 0.0
    lands: Literal["attack", "end"] = "attack"
    exact: Literal["cue", "frame"] = "cue"
    fade_in: Seconds = 0.0
    fade_out: Seconds = 0.0
    duck: Duck | None = None


class LevelKey(Frozen):
    """How loud it is on an output frame or a cue; it comes there from the key before along ``ease``."""

    id: Id
    at: Pin
    level: Decibels = 0.0
    ease: Easing = "straight"

    @model_validator(mode="after")
    def _placed(self) -> Self:
        if self.at.open_n or not self.at.open_p:
            raise ValueError("a level is set on an output frame or on a cue")
        return self
