"""From the stack of each output frame to its picture.

The ground is sampled and mixed first; over it come the layers, then the looks, each a pure
function of arrays (``picture.composing``). Where there is nothing but the ground a
picture goes on as it was decoded and placed, and a repeated one is the same object.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import chain, groupby
from pathlib import Path
from threading import Lock

import av
import numpy as np
from av.video.reformatter import Colorspace
from cachetools import LRUCache, cached

from izmet.core.document.edit import Clip, Edit, Flowing
from izmet.core.document.titles import Lettering
from izmet.core.retime.profile import Floats
from izmet.core.retime.sampling import Frames
from izmet.core.shown.framemap import BLACK, BLACK_COLOUR, HOWS, Framed, FrameMap, Layer, Mix
from izmet.core.shown.framing import lies
from izmet.media.keptflow import kept_flow
from izmet.media.pictures import colorspace_of, fill, fit, is_hdr, plane_array, planes
from izmet.media.sampling import TakeFile, sampled
from izmet.media.upright import AS_IT_IS, turn_of
from izmet.picture import composing, flow
from izmet.picture.composing import LOOKS, Letters, Planes
from izmet.picture.lettering import lettered, middle_of

Takes = Mapping[str, TakeFile]


def drawn(edit: Edit, takes: Takes, shown: FrameMap, kept: Path | None = None) -> Iterator[av.VideoFrame]:
    """The finished picture of every output frame of a stack of one kind (``FrameMap.kinds``).

    Args:
        kept: a folder in which what is found of the motion between pictures is kept.

    Raises:
        Refusal: a file that cannot be read.
    """
    stacks = stacked(edit, takes, shown, kept)
    if not (shown.layers or shown.looks or shown.placings or shown.titles):
        yield from (ground for (ground,) in stacks)
        return
    for n, frames in zip(shown.frames, stacks, strict=True):
        yield frame_of(finished(shown, n, [planes_of(frame) for frame in frames]))


def stacked(
    edit: Edit, takes: Takes, shown: FrameMap, kept: Path | None = None
) -> Iterator[tuple[av.VideoFrame, ...]]:
    """For every output frame of a stack of one kind, the placed picture of its ground and of each layer."""
    clip = int(shown.clip[0])
    ground = _placed(edit, takes, shown, clip, shown.picture, kept)
    over = [_over(edit, takes, shown, layers, kept) for layers in _together(shown.layers)]
    return map(tuple, map(chain.from_iterable, zip(([each] for each in ground), *over, strict=True)))


def _together(layers: Sequence[Layer]) -> Iterator[list[Layer]]:
    """Layers one by one, but for echoes of one clip that follow one another: these are decoded at once."""
    for echo, group in groupby(layers, lambda layer: layer.clip if layer.echo else None):
        found = list(group)
        yield from ([layer] for layer in found) if echo is None else [found]


def _over(
    edit: Edit, takes: Takes, shown: FrameMap, layers: Sequence[Layer], kept: Path | None
) -> Iterator[list[av.VideoFrame]]:
    """For every output frame the pictures of some layers that are drawn together."""
    first = layers[0]
    if not first.echo:
        yield from (
            [each] for each in _placed(edit, takes, shown, first.clip, first.picture, kept, first.colour)
        )
        return
    clip = edit.clip(shown.clips[first.clip])
    asked = np.stack([layer.picture for layer in layers], axis=1)
    framing = shown.framings.get(first.clip)
    known: dict[av.VideoFrame, av.VideoFrame] = {}
    for index, row in enumerate(sampled(takes[clip.take], asked, np.ones(asked.shape, bool))):
        known = {picture: known.get(picture) or place(edit, clip, picture, framing) for picture in row}
        rows = (None if layer.framed is None else layer.framed.values[index] for layer in layers)
        yield [in_frame(edit, clip, known[picture], row) for picture, row in zip(row, rows, strict=True)]


def finished(shown: FrameMap, n: int, pictures: Sequence[Planes]) -> Planes:
    """The picture of output frame ``n`` of a stack of one kind, given those of its ground and its layers."""
    picture, *over = pictures
    for placing in shown.placings:
        picture = composing.laid(composing.plain(picture.size), picture, 1, placing, n)
    for layer, top in zip(shown.layers, over, strict=True):
        opacity = float(layer.opacity[n - layer.first])
        if opacity == 0:
            continue
        if layer.blend != "normal":
            picture = composing.blended(picture, top, opacity, layer.blend)
        elif layer.placing is None:
            picture = composing.mixed(picture, top, opacity)
        else:
            picture = composing.laid(picture, top, opacity, layer.placing, n, layer.keying)
    for look in shown.looks:
        picture = LOOKS[look.kind](picture, look.colour, **look.at(n))
    for each in shown.titles:
        opacity, lies = each.at(n)
        if opacity > 0:
            letters = _letters(each.title, picture.size)
            middle = middle_of(each.title, letters.size, picture.size)
            picture = composing.lettered(picture, letters, middle, opacity, lies)
    return picture


@cached(LRUCache(8), key=lambda title, size: (title.drawn, size), lock=Lock())
def _letters(title: Lettering, size: tuple[int, int]) -> Letters:
    """A title's letters in a frame of this size; titles that are drawn alike have the same."""
    return composing.letters_of(lettered(title, size))


def _placed(
    edit: Edit,
    takes: Takes,
    shown: FrameMap,
    clip: int,
    pictures: Frames,
    kept: Path | None,
    colour: str = BLACK_COLOUR,
) -> Iterator[av.VideoFrame]:
    """A clip's pictures in a stack of one kind, sampled, placed and mixed; or a plain colour."""
    if clip == BLACK:
        plain = frame_of(composing.plain((edit.width, edit.height), colour))
        yield from (plain for _ in pictures)
        return
    found, mix = edit.clip(shown.clips[clip]), shown.mixes.get(clip)
    part = Mix(shown.first, pictures[:, None], np.ones((len(pictures), 1)), np.zeros(len(pictures), np.int8))
    if mix is not None:
        part = mix.between(shown.frames)
    file = takes[found.take]
    media = edit.take(found.take).media
    laid = f"{media.sha256 or media.path} {edit.width}x{edit.height} {found.fit} {found.across} {found.down}"
    framing = shown.framings.get(clip)
    flows = _Flows(kept, laid if framing is None else f"{laid} {canvas_of(edit, found, framing)}")
    for n, whole in zip(shown.frames, _mixed(edit, found, part, file, framing, flows), strict=True):
        yield whole if framing is None else in_frame(edit, found, whole, framing.values[n - framing.first])


def _mixed(
    edit: Edit, found: Clip, part: Mix, file: TakeFile, framing: Framed | None, flows: _Flows
) -> Iterator[av.VideoFrame]:
    """A clip's pictures as they are seen together: in the edit's size, or whole where they are framed."""
    known: dict[av.VideoFrame, av.VideoFrame] = {}
    rows = sampled(file, part.pictures, part.weights > 0)
    numbers = file.table.picture[part.pictures].tolist()
    for row, asked, weight, number in zip(rows, numbers, part.weights, part.how.tolist(), strict=True):
        known = {picture: known.get(picture) or place(edit, found, picture, framing) for picture in row}
        ready = [known[picture] for picture in row]
        how = HOWS[number]
        if len(ready) == 1:
            yield ready[0]
        elif how == "draft" or how == "fine":
            yield flows.between((asked[0], asked[1]), (ready[0], ready[1]), float(weight[1]), how)
        else:
            yield frame_of(composing.weighted([planes_of(each) for each in ready], weight[weight > 0]))


class _Flows:
    """What lies between two pictures of a take; the motion of the last two is at hand, for frames in a row
    share it."""

    def __init__(self, kept: Path | None, laid: str) -> None:
        self._kept, self._laid = kept, laid
        self._known: tuple[tuple[int, int], flow.Flow] | None = None

    def between(
        self, numbers: tuple[int, int], pair: tuple[av.VideoFrame, av.VideoFrame], part: float, how: Flowing
    ) -> av.VideoFrame:
        """The picture so far on the way from the first to the second, 0 to 1, given their numbers."""
        one, other = map(planes_of, pair)
        if self._known is None or self._known[0] != numbers:
            said = f"{self._laid} {numbers} {how}"
            found = kept_flow(self._kept, said, lambda: flow.flow_of(one.y, other.y, how))
            self._known = numbers, found
        return frame_of(flow.between(one, other, self._known[1], part))


def canvas_of(edit: Edit, clip: Clip, framing: Framed) -> tuple[int, int]:
    """The size of a picture that will be framed: as large as it is seen at most, or as the take has it."""
    take = edit.take(clip.take)
    size, outer = (take.width, take.height), (edit.width, edit.height)
    inner = (fill if clip.fit == "fill" else fit)(size, outer)
    by = max(1.0, min(framing.most, take.width / inner[0]))
    wide, high = (2 * round(side * by / 2) for side in inner)
    return wide, high


def in_frame(edit: Edit, clip: Clip, whole: av.VideoFrame, row: Floats | None) -> av.VideoFrame:
    """A whole picture as it lies in the frame; one that is not framed lies there already."""
    if row is None:
        return whole
    return frame_of(composing.framed(planes_of(whole), (edit.width, edit.height), lies(edit, clip), row))


def place(edit: Edit, clip: Clip, frame: av.VideoFrame, framing: Framed | None = None) -> av.VideoFrame:
    """A take's picture in the edit's size, upright, BT.709: filling it, or fitted into black; or all of it,
    where it is framed later."""
    if framing is not None:
        whole = planes(frame, canvas_of(edit, clip, framing), "yuv420p", Colorspace.ITU709, full_range=False)
        return frame_of(Planes(*whole))
    take = edit.take(clip.take)
    ready = (
        frame.format.name == "yuv420p"
        and (frame.width, frame.height) == (edit.width, edit.height) == (take.width, take.height)
        and turn_of(frame) == AS_IT_IS
        and colorspace_of(frame) == Colorspace.ITU709
        and not is_hdr(frame)
    )
    if ready:
        return frame
    outer = (edit.width, edit.height)
    inner = (fill if clip.fit == "fill" else fit)((take.width, take.height), outer)
    scaled = Planes(*planes(frame, inner, "yuv420p", Colorspace.ITU709, full_range=False))
    return frame_of(composing.placed(scaled, outer, clip.across, clip.down))


def planes_of(frame: av.VideoFrame) -> Planes:
    """The planes of a picture in 4:2:0, over its own memory."""
    sides = ((frame.width, frame.height), *[(frame.width // 2, frame.height // 2)] * 2)
    return Planes(
        *(plane_array(plane)[:high, :wide] for plane, (wide, high) in zip(frame.planes, sides, strict=True))
    )


def frame_of(picture: Planes) -> av.VideoFrame:
    """A picture for the encoder, marked with the matrix that it is coded in."""
    high, wide = picture.y.shape
    frame = av.VideoFrame(wide, high, "yuv420p")
    frame.colorspace = Colorspace.ITU709
    for target, plane in zip(frame.planes, picture, strict=True):
        plane_array(target)[: plane.shape[0], : plane.shape[1]] = plane
    return frame
