"""Decoded pictures of a take, in order or one by one, each identified by its exact stamp."""

from __future__ import annotations

import os
import threading
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.video.reformatter import ColorRange, Colorspace, Interpolation, VideoReformatter
from numpy.typing import NDArray

from izmet.core.document.refusal import Refusal
from izmet.media.faults import decoded, reading
from izmet.media.frametable import FrameTable
from izmet.media.hdr import to_sdr
from izmet.media.order import Clock, decoded_in_order, keeps_only_order
from izmet.media.upright import turn_of, with_turns

Plane = NDArray[np.uint8]
FEW = 8
"""Up to so many pictures, starting decoder threads costs more than they save."""
MOST_THREADS = 16
"""As many as the decoder takes by itself at most; each holds a picture in memory."""
LARGEST_PICTURE = 8192 * 4608
"""In pixels: 8K as cameras and televisions have it."""
DECODING_BYTES = 512 << 20
"""What the pictures that are decoded side by side may fill."""
_LOCAL = threading.local()
HD_HEIGHT = 720
MARKED_MATRICES = {1: Colorspace.ITU709, 5: Colorspace.ITU601, 6: Colorspace.ITU601, 9: Colorspace.BT2020}
"""Matrix coefficients by their number in ITU-T H.273."""


def picture_stream(container: av.container.InputContainer) -> av.VideoStream | None:
    """The first real video stream: cover art does not count. Pictures over the limit are not decoded."""
    art = av.stream.Disposition.attached_pic
    stream = next((s for s in container.streams.video if not s.disposition & art), None)
    if stream is not None and stream.codec_context is not None:
        stream.codec_context.options = {"max_pixels": str(LARGEST_PICTURE)}
    return stream


def decode_all(path: Path, name: str) -> Iterator[av.VideoFrame]:
    """All pictures of a take in order of presentation, damaged packets passed over.

    Raises:
        Refusal: no video in the file, or a file that cannot be read.
    """
    with reading(path, name), av.open(str(path), metadata_errors="replace") as container:
        stream = picture_stream(container)
        if stream is None:
            raise Refusal("no-picture", "The file has sound but no picture.", name, "Choose a video file.")
        _decode_in_threads(stream)
        yield from _decode(container, stream)


def _decode_in_threads(stream: av.VideoStream) -> None:
    """Have pictures decoded side by side, in a thread more than the decoder would take by itself: processors
    that it leaves idle now and then are busy while others look at what it hands over."""
    stream.thread_type = "AUTO"
    context = stream.codec_context
    bits = context.format.padded_bits_per_pixel if context.format else 0
    room = DECODING_BYTES // max(1, context.width * context.height * bits // 8)
    context.thread_count = max(1, min(MOST_THREADS, (os.cpu_count() or 1) + 2, room))


def decode_wanted(path: Path, name: str, table: FrameTable, wanted: Sequence[int]) -> Iterator[av.VideoFrame]:
    """The wanted pictures (rising numbers in ``table.stamps``), each once, decoded in one pass.

    Raises:
        Refusal: a file that cannot be read, or one that lacks a picture it had.
    """
    if not wanted:
        return
    stamps = [int(table.stamps[picture]) for picture in wanted]
    with reading(path, name), av.open(str(path), metadata_errors="replace") as container:
        stream = picture_stream(container)
        assert stream is not None
        if len(wanted) > FEW:
            _decode_in_threads(stream)
        else:
            stream.thread_type = "NONE"
        found = 0
        for frame in _decode_from(container, stream, stamps[0], table.restarts):
            if frame.pts == stamps[found]:
                yield frame
                found += 1
                if found == len(stamps):
                    return
        raise Refusal(
            "picture-missing",
            f"Picture {wanted[found]} could not be decoded any more.",
            name,
            "The file changed or is damaged; link the original again.",
        )


def _decode_from(
    container: av.container.InputContainer, stream: av.VideoStream, stamp: int, restarts: bool
) -> Iterator[av.VideoFrame]:
    """Pictures from this stamp or before it on; from the start where nobody can seek, or only too far."""
    if restarts or keeps_only_order(container, stream):
        yield from Clock().told(_decode(container, stream))
        return
    container.seek(stamp, stream=stream, backward=True)
    frames = _decode(container, stream)
    first = next(frames, None)
    if first is None or first.pts is None or first.pts > stamp:
        container.seek(0, backward=True, any_frame=False)
        yield from _decode(container, stream)
        return
    yield first
    yield from frames


def first_picture(container: av.container.InputContainer, stream: av.VideoStream) -> av.VideoFrame | None:
    """The first picture that decodes, or None."""
    return next(_decode(container, stream), None)


def _decode(container: av.container.InputContainer, stream: av.VideoStream) -> Iterator[av.VideoFrame]:
    if keeps_only_order(container, stream):
        frames = decoded_in_order(container, stream)
    else:
        frames = decoded(container.demux(stream))
    whole = (frame for frame in frames if isinstance(frame, av.VideoFrame) and not frame.is_corrupt)
    yield from with_turns(frame for frame in whole if frame.pts is not None)


def plane_array(plane: av.video.plane.VideoPlane) -> Plane:
    """A frame's plane as a writable array over its own memory, shape (lines, line size)."""
    return np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)


def fit(inner: tuple[int, int], outer: tuple[int, int]) -> tuple[int, int]:
    """The largest even size with the proportions of ``inner`` that fits in ``outer``."""
    scale = min(outer[0] / inner[0], outer[1] / inner[1])
    width, height = (max(2, 2 * round(side * scale / 2)) for side in inner)
    return min(width, outer[0]), min(height, outer[1])


def fill(inner: tuple[int, int], outer: tuple[int, int]) -> tuple[int, int]:
    """The smallest even size with the proportions of ``inner`` that covers ``outer``."""
    scale = max(outer[0] / inner[0], outer[1] / inner[1])
    width, height = (2 * round(side * scale / 2) for side in inner)
    return max(width, outer[0]), max(height, outer[1])


HDR_TRANSFERS = {16, 18}
"""PQ and HLG by their numbers in ITU-T H.273."""


def is_hdr(frame: av.VideoFrame) -> bool:
    """Whether a picture has a transfer of ITU-R BT.2100."""
    return frame.color_trc in HDR_TRANSFERS


def colorspace_of(frame: av.VideoFrame) -> Colorspace:
    """The matrix of a frame; unmarked ones are BT.709 from 720 lines on (common practice, no source)."""
    if frame.colorspace in MARKED_MATRICES:
        return MARKED_MATRICES[frame.colorspace]
    return Colorspace.ITU709 if frame.height >= HD_HEIGHT else Colorspace.ITU601


def _reformatter(use: str) -> VideoReformatter:
    """This thread's own scaler for one use: it keeps its tables while sizes and formats stay."""
    kept: dict[str, VideoReformatter] = _LOCAL.__dict__.setdefault("reformatters", {})
    return kept.setdefault(use, VideoReformatter())


def planes(
    frame: av.VideoFrame, size: tuple[int, int], pixels: str, matrix: Colorspace, full_range: bool
) -> list[Plane]:
    """The frame's three planes in 4:2:0, upright, scaled to ``size`` (even width and height).

    Args:
        pixels: ``yuv420p`` or ``yuvj420p``.
        matrix, full_range: how the planes are to be coded.
    """
    turn = turn_of(frame)
    width, height = turn.size(size)
    if is_hdr(frame):
        frame = to_sdr(frame, (width, height), _reformatter("light"))
    matrix_of_frame = colorspace_of(frame)
    if width * height < frame.width * frame.height:
        # Shrunk as it is, then recoded: that way round there is less to recode.
        frame = _reformatter("size").reformat(
            frame, width, height, interpolation=Interpolation.AREA, threads=1
        )
    scaled = _reformatter("colour").reformat(
        frame,
        width=width,
        height=height,
        format=pixels,
        interpolation=Interpolation.BICUBIC,
        src_colorspace=matrix_of_frame,
        dst_colorspace=matrix,
        dst_color_range=ColorRange.JPEG if full_range else ColorRange.MPEG,
        threads=1,
    )
    sides = ((width, height), (width // 2, height // 2), (width // 2, height // 2))
    found = [plane_array(plane)[:h, :w] for plane, (w, h) in zip(scaled.planes, sides, strict=True)]
    return [turn.upright(plane) for plane in found]


PLAIN = {"yuv420p", "yuvj420p", "yuv422p", "yuvj422p", "yuv444p", "yuvj444p", "nv12", "gray"}
"""Formats whose first plane is luma in bytes."""
BLACK, WHITE = 16, 235
"""Luma of limited range: ITU-R BT.601 and BT.709."""


def small_luma(frame: av.VideoFrame, size: tuple[int, int]) -> Plane:
    """The frame's luma alone, upright, of full range, scaled to ``size``: for looking at many frames."""
    # Compiled loops take half a second to load: a file's header is read without them.
    from izmet.picture.shrinking import shrunk, stretched

    turn = turn_of(frame)
    wanted = turn.size(size)
    if is_hdr(frame):
        frame = to_sdr(frame, wanted, _reformatter("light"))
    if frame.format.name not in PLAIN:
        gray = _reformatter("gray").reformat(
            frame, *wanted, format="gray", interpolation=Interpolation.AREA, threads=1
        )
        small: Any = plane_array(gray.planes[0])[: wanted[1], : wanted[0]]
    else:
        small = shrunk(plane_array(frame.planes[0]), (frame.width, frame.height), wanted)
        if frame.color_range != ColorRange.JPEG and not frame.format.name.startswith("yuvj"):
            small = stretched(np.ascontiguousarray(small), BLACK, WHITE)
    return turn.upright(small)
