"""In which parts is an edit rendered?

A plan is a list of ranges of output frames, each with a key: a hash of all that the
range shows and of how it is drawn and written. Parts with one key come out alike, whenever
and wherever they are made; so they can be made apart, kept, and joined. A part never
crosses a cut, nor the beginning or end of an overlap or an accent, so that a change to one
clip leaves the parts of the others as they were.
"""

from __future__ import annotations

from hashlib import sha256
from typing import NamedTuple

from izmet.core.document.edit import Edit
from izmet.core.retime.sampling import Frames
from izmet.core.shown.framemap import BLACK, Framed, FrameMap

LONGEST_SECONDS = 4.0
"""A longer stretch is cut, so that several can make it, and little is lost when the work is stopped."""


class Part(NamedTuple):
    """Some output frames with a stack of one kind, and their key."""

    shown: FrameMap
    key: str

    @property
    def frames(self) -> range:
        """Its output frames."""
        return self.shown.frames

    @property
    def clip(self) -> str | None:
        """The clip that fills the frame; None where nothing does."""
        return self.shown.request(0).clip


def render_plan(edit: Edit, shown: FrameMap, how: str) -> list[Part]:
    """The parts of an edit, in order.

    Args:
        how: all that decides how pictures are drawn and written, in words; it is part of each key.
    """
    longest = max(1, round(LONGEST_SECONDS * edit.rate))
    parts = []
    for kind in shown.kinds():
        for begin in range(kind.frames.start, kind.frames.stop, longest):
            part = kind.between(range(begin, begin + longest))
            parts.append(Part(part, _key(edit, part, how)))
    return parts


def _key(edit: Edit, shown: FrameMap, how: str) -> str:
    digest = sha256(f"{how} {edit.rate} {edit.width}x{edit.height} {len(shown)}".encode())
    ground = int(shown.clip[0])
    if ground != BLACK:
        digest.update(_pictures(edit, shown, ground, shown.picture))
    for layer in shown.layers:
        if layer.clip != BLACK:
            digest.update(_pictures(edit, shown, layer.clip, layer.picture, layer.echo, layer.framed))
        source = layer.colour if layer.clip == BLACK else f"{layer.keying or ''}"
        digest.update(f" {source} {layer.blend} ".encode() + layer.opacity.astype("<f8").tobytes())
    placed = [("ground", each) for each in shown.placings]
    placed += [(f"layer {index}", each.placing) for index, each in enumerate(shown.layers) if each.placing]
    for of, placing in placed:
        digest.update(
            f" {of} {placing.mask} {placing.corners} ".encode() + placing.values.astype("<f8").tobytes()
        )
    for look in shown.looks:
        digest.update(f" {look.colour}".encode())
        for name, column in sorted(look.values.items()):
            digest.update(f" {look.kind} {name}".encode())
            digest.update(column.astype("<f8").tobytes())
    for title in shown.titles:
        digest.update(f" {title.title.drawn}".encode() + title.values.astype("<f8").tobytes())
    return digest.hexdigest()


def _pictures(
    edit: Edit,
    shown: FrameMap,
    place: int,
    pictures: Frames,
    echo: bool = False,
    framed: Framed | None = None,
) -> bytes:
    """All that decides which pictures of a clip are seen in a part, and where in the frame."""
    clip = edit.clip(shown.clips[place])
    take = edit.take(clip.take)
    placed = f" {clip.fit} {clip.across} {clip.down}"
    file = f" {take.media.sha256 or take.media.path} {take.width}x{take.height} {take.rate}"
    asked = f"{placed}{file}".encode() + pictures.astype("<i8").tobytes()
    if (framing := shown.framings.get(place)) is not None:
        rows = (framed or framing.between(shown.frames)).values
        asked += f" framed up to {framing.most}".encode() + rows.astype("<f8").tobytes()
    if (mix := shown.mixes.get(place)) is None or echo:
        return asked
    part = mix.between(shown.frames)
    mixed = f" mixed {part.pictures.shape}".encode() + part.pictures.astype("<i8").tobytes()
    return asked + mixed + part.weights.astype("<f8").tobytes() + part.how.tobytes()
