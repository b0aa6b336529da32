"""From an edit to a file.

Decodes each clip's pictures once and in order, in a thread beside the encoder. A
picture that has the edit's size and coding already is handed on as it is; others are
fitted into black. What is shown where comes from the core's frame map alone.
"""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable, Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import av
import numpy as np
from av.video.reformatter import Colorspace

from izmet.core.edit import Edit, Take
from izmet.core.framemap import BLACK, FrameMap, frame_map
from izmet.core.rates import seconds_at
from izmet.core.refusal import Refusal
from izmet.core.retime.solve import solve
from izmet.media.faults import writing
from izmet.media.frametable import FrameTable
from izmet.media.pictures import colorspace_of, decode_wanted, fit, plane_array, planes
from izmet.media.songfile import Sound
from izmet.media.writer import FormatName, Writer

AHEAD = 8
BLACK_LUMA, NEUTRAL = 16, 128


@dataclass(frozen=True)
class TakeFile:
    """Where a take's file is, and which picture each of its frames holds."""

    path: Path
    table: FrameTable


def render(
    edit: Edit,
    takes: Mapping[str, TakeFile],
    song: Sound | None,
    out: Path,
    format: FormatName,
    progress: Callable[[int, int], None] = lambda done, of: None,
) -> None:
    """Write the edit to a file: all that its clips cover, with the music of that stretch.

    Args:
        takes: the file of each take that a clip uses, by take id.
        out: the file to write. It appears whole or not at all.
        progress: called with frames done and frames in all; may raise to cancel.

    Raises:
        Refusal: nothing to export, a file that cannot be read, a full disk.
    """
    curves = [solve(edit, clip) for clip in edit.clips]
    shown = frame_map(curves)
    if len(shown) == 0:
        raise Refusal(
            "nothing-to-export", "No clip is laid on the music yet.", remedy="Lay a take on a cue first."
        )
    part = out.with_name(f"{out.name}.part")
    size = (edit.width, edit.height)
    try:
        with (
            writing(out.name),
            Writer(part, format, edit.rate, size, sound_under(edit, shown, song)) as writer,
        ):
            for done, frame in enumerate(_ahead(_frames(edit, takes, shown))):
                writer.add(frame)
                progress(done + 1, len(shown))
        part.replace(out)
    finally:
        part.unlink(missing_ok=True)


def sound_under(edit: Edit, shown: FrameMap, song: Sound | None) -> Sound | None:
    """The stretch of the song beneath the frame map, padded with silence where the song has ended."""
    if song is None:
        return None
    start = round(seconds_at(shown.first, edit.rate) * song.rate)
    count = round(seconds_at(len(shown), edit.rate) * song.rate)
    heard = song.samples[start : start + count]
    silence = np.zeros((count - len(heard), song.samples.shape[1]), np.float32)
    return Sound(np.concatenate([heard, silence]), song.rate)


def _frames(edit: Edit, takes: Mapping[str, TakeFile], shown: FrameMap) -> Iterator[av.VideoFrame]:
    """The finished picture of every output frame. A repeated picture is the same object again."""
    edges = np.flatnonzero(np.diff(shown.clip)) + 1
    for stretch in np.split(np.arange(len(shown)), edges):
        clip = int(shown.clip[stretch[0]])
        if clip == BLACK:
            black = _black(edit)
            yield from (black for _ in stretch)
        else:
            take = edit.take(edit.clips[clip].take)
            yield from _stretch(edit, take, takes[take.id], shown.source[stretch])


def _stretch(edit: Edit, take: Take, file: TakeFile, source: np.ndarray) -> Iterator[av.VideoFrame]:
    pictures = file.table.picture[source]
    wanted, counts = np.unique(pictures, return_counts=True)
    decoded = decode_wanted(file.path, take.media.name, file.table, wanted.tolist())
    for frame, count in zip(decoded, counts, strict=True):
        finished = compose(edit, take, frame)
        yield from (finished for _ in range(count))


def compose(edit: Edit, take: Take, frame: av.VideoFrame) -> av.VideoFrame:
    """A take's picture in the edit's size, upright, BT.709, with black where it does not reach."""
    ready = (
        frame.format.name == "yuv420p"
        and (frame.width, frame.height) == (edit.width, edit.height) == (take.width, take.height)
        and frame.rotation == 0
        and colorspace_of(frame) == Colorspace.ITU709
    )
    if ready:
        return frame
    inner = fit((take.width, take.height), (edit.width, edit.height))
    canvas = _black(edit)
    left, top = (
        (outer - side) // 4 * 2 for outer, side in zip((edit.width, edit.height), inner, strict=True)
    )
    drawn = planes(frame, inner, "yuv420p", Colorspace.ITU709, full_range=False)
    for index, (target, plane) in enumerate(zip(canvas.planes, drawn, strict=True)):
        share = 2 if index else 1
        area = plane_array(target)
        y, x = top // share, left // share
        area[y : y + plane.shape[0], x : x + plane.shape[1]] = plane
    return canvas


def _black(edit: Edit) -> av.VideoFrame:
    frame = av.VideoFrame(edit.width, edit.height, "yuv420p")
    for plane, level in zip(frame.planes, (BLACK_LUMA, NEUTRAL, NEUTRAL), strict=True):
        plane_array(plane)[:] = level
    return frame


def _ahead(frames: Iterator[av.VideoFrame]) -> Iterator[av.VideoFrame]:
    """The same frames, made in a thread that runs a few ahead; its errors come out here."""
    ready: queue.Queue[av.VideoFrame | BaseException | None] = queue.Queue(AHEAD)
    stop = threading.Event()

    def put(item: av.VideoFrame | BaseException | None) -> None:
        while not stop.is_set():
            with suppress(queue.Full):
                ready.put(item, timeout=0.1)
                break

    def work() -> None:
        try:
            for frame in frames:
                put(frame)
                if stop.is_set():
                    return
            put(None)
        except BaseException as error:  # handed to the reader, which raises it
            put(error)

    thread = threading.Thread(target=work, name="decode-ahead", daemon=True)
    thread.start()
    try:
        while (item := ready.get()) is not None:
            if isinstance(item, BaseException):
                raise item
            yield item
    finally:
        stop.set()
        thread.join()
