"""In which parts is an edit rendered?

A plan is a list of ranges of output frames, each with a key: a hash of all that the
range shows and of how it is written. Parts with one key come out alike, whenever and
wherever they are made; so they can be made apart, kept, and joined. A part never
crosses a cut, so that a change to one clip leaves the parts of the others as they were.
"""

from __future__ import annotations

from hashlib import sha256
from typing import NamedTuple

from izmet.core.document.edit import Clip, Edit
from izmet.core.shown.framemap import FrameMap

LONGEST_SECONDS = 10.0
"""A longer stretch is cut, so that little is lost when the work is stopped."""


class Part(NamedTuple):
    """The frames with these indices in the frame map, of one clip or of none, and their key."""

    clip: str | None
    frames: range
    key: str


def render_plan(edit: Edit, shown: FrameMap, how: str) -> list[Part]:
    """The parts of an edit, in order.

    Args:
        how: all that decides how pictures are written, in words; it is part of each key.
    """
    longest = max(1, round(LONGEST_SECONDS * edit.rate))
    clips = {clip.id: clip for clip in edit.clips}
    parts = []
    for clip, stretch in shown.stretches():
        made_from = None if clip is None else clips[clip]
        for begin in range(stretch.start, stretch.stop, longest):
            frames = range(begin, min(begin + longest, stretch.stop))
            parts.append(Part(clip, frames, _key(edit, made_from, shown, frames, how)))
    return parts


def _key(edit: Edit, clip: Clip | None, shown: FrameMap, frames: range, how: str) -> str:
    digest = sha256(f"{how} {edit.rate} {edit.width}x{edit.height} {len(frames)}".encode())
    if clip is not None:
        take = edit.take(clip.take)
        digest.update(f" {clip.fit} {clip.across} {clip.down}".encode())
        asked = shown.request(frames.start)
        digest.update(f" {take.media.sha256 or take.media.path} {take.width}x{take.height}".encode())
        digest.update(f" {take.rate} {asked.sampling} {asked.effects}".encode())
        digest.update(shown.picture[frames.start : frames.stop].astype("<i8").tobytes())
    return digest.hexdigest()
