"""From an edit to a file.

The edit is rendered part by part (``core.shown.plan``): each is drawn in a thread
beside the encoder; then the parts are joined with the sound. What is shown where comes
from the core's frame map alone.
"""

from __future__ import annotations

import logging
import os
import queue
import tempfile
import threading
from collections.abc import Callable, Generator, Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from itertools import chain
from pathlib import Path

import av

from izmet.core.document.edit import Edit
from izmet.core.document.rates import seconds_at
from izmet.core.document.refusal import Refusal
from izmet.core.music.chapters import chapters_of
from izmet.core.shown.framemap import FrameMap
from izmet.core.shown.plan import Part, render_plan
from izmet.core.shown.stack import frames_exported
from izmet.media import sampling
from izmet.media.drawing import drawn
from izmet.media.formats import (
    FORMATS,
    TICKS,
    Format,
    FormatName,
    Kind,
    Quality,
    Video,
    how_written,
)
from izmet.media.sampling import TakeFile, counted_in
from izmet.media.stills import check_loop, write_stills
from izmet.media.writer import PartWriter, SpoiledParts, join, whole_file, write_sound
from izmet.picture import composing, flow, lettering
from izmet.sound.mixer import Excerpt, Mixer

log = logging.getLogger(__name__)
AHEAD, AHEAD_BYTES = 8, 32 << 20
"""Pictures that are drawn ahead of the encoder, and how much they may hold."""
DRAWN = (
    f"sampled {sampling.VERSION} drawn {composing.VERSION} moved {flow.VERSION} lettered {lettering.VERSION}"
)
"""Goes into every part's key: what is drawn otherwise is another part."""


@dataclass(frozen=True)
class Rendering:
    """Beside the frames themselves, all that decides how pictures are drawn and coded.

    ``takes`` are the files of the takes that clips use, by take id.
    """

    edit: Edit
    takes: Mapping[str, TakeFile]
    format: FormatName
    quality: Quality

    @property
    def coding(self) -> Video:
        """How its pictures are coded."""
        found = FORMATS[self.format].video
        assert found is not None, self.format
        return found

    def plan(self, shown: FrameMap) -> list[Part]:
        """The parts of which some frames are made."""
        return render_plan(self.edit, shown, f"{DRAWN} {how_written(self.coding, self.quality)}")

    def file(self, folder: Path, part: Part) -> Path:
        """Where a folder keeps a part."""
        return folder / f"{part.key}.{self.coding.parts}"


Maker = Callable[[Rendering, Sequence[Part], Path, Callable[[int, int], None], Callable[[str], None]], None]
"""Sees to it that parts lie in a folder, as ``make_parts`` does."""


def make_parts(
    rendering: Rendering,
    parts: Sequence[Part],
    folder: Path,
    progress: Callable[[int, int], None],
    begun: Callable[[str], None],
) -> None:
    """Write the parts that are not in a folder yet. Each appears whole or not at all."""
    edit = rendering.edit
    missing = [part for part in parts if not taken_up(rendering.file(folder, part))]
    total = sum(len(part.frames) for part in parts)
    done = total - sum(len(part.frames) for part in missing)
    ahead = min(AHEAD, max(1, AHEAD_BYTES // (edit.width * edit.height * 3 // 2)))
    pictures = _ahead(_pictures(edit, rendering.takes, missing, folder), ahead)
    coded = (rendering.coding, rendering.quality, edit.rate, (edit.width, edit.height))
    try:
        for part in missing:
            begun(part.clip or "")
            with PartWriter(rendering.file(folder, part), *coded) as writer:
                for _ in part.frames:
                    writer.add(next(pictures))
                    done += 1
                    progress(done, total)
    finally:
        pictures.close()


def taken_up(file: Path) -> bool:
    """Whether a part is there; it counts as used now, so that nobody throws it away soon."""
    try:
        os.utime(file)
    except FileNotFoundError:
        return False
    return True


def render(
    edit: Edit,
    takes: Mapping[str, TakeFile],
    mix: Mixer | None,
    out: Path,
    format: FormatName,
    progress: Callable[[int, int], None] = lambda done, of: None,
    kept: Path | None = None,
    begun: Callable[[str], None] = lambda clip: None,
    quality: Quality = "good",
    chapters: bool = False,
    maker: Maker = make_parts,
) -> None:
    """Write the edit to a file: all that its clips cover, with what is heard of that stretch.

    Args:
        takes: the file of each take that a clip uses, by take id.
        mix: what is heard, None for a silent file.
        out: the file to write. It appears whole or not at all.
        progress: called with frames done and frames in all; may raise to cancel.
        kept: a folder of parts made before; those made now are kept in it too.
        begun: called with the id of each clip whose pictures are made next.
        quality: how good a picture is, and how large the file.
        chapters: whether the file says where the music has its sections and drops.
        maker: sees to it that the parts are made, here or elsewhere.

    Raises:
        Refusal: nothing to export, a file that cannot be read, a full disk.
    """
    shown = frames_exported(edit, counted_in(takes))
    if len(shown) == 0:
        raise Refusal(
            "nothing-to-export",
            "No clip is laid here yet.",
            remedy="Lay a take on a cue first, or let the range go.",
        )
    for id, file in takes.items():
        if len(file.table) < edit.take(id).frames:
            raise Refusal(
                "take-shorter",
                f"The file holds {len(file.table)} frames, and the edit counts on {edit.take(id).frames}.",
                file.name,
                "Link the file that the edit was made with, or correct the count.",
            )
    chosen = FORMATS[format]
    if chosen.stills is not None:
        write_pictures(edit, takes, shown, out, chosen.stills, quality, progress, kept)
        return
    if chosen.video is None:
        write_alone(edit, shown, mix, out, chosen)
        return
    rendering = Rendering(edit, takes, format, quality)
    plan = rendering.plan(shown)

    named = chapters_of(edit, shown.frames) if chapters else []
    told = [each._replace(frames=_within(each.frames, shown)) for each in named]

    def make() -> None:
        maker(rendering, plan, folder, progress, begun)

    with whole_file(out) as part, _folder(kept, out.parent) as folder:
        files = [(rendering.file(folder, each), len(each.frames)) for each in plan]
        sound = None if mix is None else sound_under(edit, shown, mix)
        make()
        try:
            join(files, edit.rate, sound, part, chosen, told)
        except SpoiledParts as spoiled:
            log.warning("parts are made again: %s", spoiled)
            for path in spoiled.paths:
                path.unlink()
            make()
            join(files, edit.rate, sound, part, chosen, told)
        progress(len(shown), len(shown))  # a last chance to stop before the file is shown


def _within(frames: range, shown: FrameMap) -> range:
    """Output frames counted from the first that is shown."""
    return range(frames.start - shown.first, frames.stop - shown.first)


def write_alone(edit: Edit, shown: FrameMap, mix: Mixer | None, out: Path, chosen: Format) -> None:
    """Write what is heard beneath the frame map, without its pictures."""
    if mix is None:
        raise Refusal(
            "nothing-heard", "Nothing is heard in this edit.", out.name, "Choose a format with pictures."
        )
    with whole_file(out) as part:
        write_sound(sound_under(edit, shown, mix), part, chosen)


def write_pictures(
    edit: Edit,
    takes: Mapping[str, TakeFile],
    shown: FrameMap,
    out: Path,
    kind: Kind,
    quality: Quality,
    progress: Callable[[int, int], None],
    kept: Path | None,
) -> None:
    """Write what is seen on the frames of a frame map, without sound."""
    if kind in TICKS:
        check_loop(len(shown), (edit.width, edit.height), out.name)
    frames = _pictures(edit, takes, render_plan(edit, shown, DRAWN), kept)
    with whole_file(out) as part:
        write_stills(frames, shown.first, edit.rate, part, kind, quality, lambda n: progress(n, len(shown)))


@contextmanager
def _folder(kept: Path | None, beside: Path) -> Iterator[Path]:
    if kept is not None:
        yield kept
        return
    with tempfile.TemporaryDirectory(dir=beside, prefix=".parts-") as own:
        yield Path(own)


def parts_in(folder: Path) -> Iterator[Path]:
    """All parts that a folder keeps."""
    kinds = {each.video.parts for each in FORMATS.values() if each.video is not None}
    return chain.from_iterable(folder.glob(f"*.{kind}") for kind in sorted(kinds))


def sound_under(edit: Edit, shown: FrameMap, mix: Mixer) -> Excerpt:
    """What is heard beneath the frame map."""
    start = round(seconds_at(shown.first, edit.rate) * mix.rate)
    return Excerpt(mix, start, round(seconds_at(len(shown), edit.rate) * mix.rate))


def _pictures(
    edit: Edit, takes: Mapping[str, TakeFile], parts: list[Part], kept: Path | None
) -> Iterator[av.VideoFrame]:
    """The finished picture of every output frame of some parts."""
    for part in parts:
        yield from drawn(edit, takes, part.shown, kept)


def _ahead(frames: Iterator[av.VideoFrame], most: int) -> Generator[av.VideoFrame]:
    """The same frames, made in a thread that runs some ahead; its errors come out here."""
    ready: queue.Queue[av.VideoFrame | BaseException | None] = queue.Queue(most)
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
