"""Files of pictures alone, without sound: loops that a page shows by itself, and one picture a file.

A loop says for how long each picture is seen: in hundredths of a second in GIF (GIF89a), in thousandths in
WebP (its container specification). What is rounded off one picture is made up for at the next, so that a loop
is as long as its stretch of the edit.
"""

from __future__ import annotations

import zipfile
from collections.abc import Callable, Iterator
from fractions import Fraction
from io import BytesIO
from pathlib import Path

import av
import numpy as np
from PIL import Image, ImageSequence

from izmet.core.document.refusal import Refusal
from izmet.media.drawing import planes_of
from izmet.media.formats import TICKS, Kind, Quality
from izmet.picture import composing

FASTEST = Fraction(100, 3)
"""Pictures a second of a loop: what shows GIFs slows quicker ones down. Common practice, no source."""
LONGEST_LOOP, MOST_DOTS = 900, 400_000_000
"""Pictures of a loop, and dots of all of them: it is held in memory while it is made."""
LARGEST_LOOP = 640
"""The longer side of a loop where nothing else is said. Common practice, no source."""
WEBP_QUALITY: dict[Quality, int] = {"small": 55, "good": 75, "best": 92}
COLOURS: dict[Quality, int] = {"small": 64, "good": 160, "best": 256}
COMPRESSED = 3


def image_of(frame: av.VideoFrame) -> Image.Image:
    """A finished picture in red, green and blue as screens take them."""
    return Image.fromarray(np.rint(255 * composing.colours(planes_of(frame))).astype(np.uint8))


def write_stills(
    frames: Iterator[av.VideoFrame],
    first: int,
    rate: Fraction,
    out: Path,
    kind: Kind,
    quality: Quality,
    done: Callable[[int], None],
) -> None:
    """Write pictures to a file.

    Args:
        first: the output frame of the first one; pictures of a sequence are named by their frames.
        done: told how many are drawn.
    """
    images = _told((image_of(frame) for frame in frames), done)
    if kind == "png":
        _sequence(images, first, out)
    else:
        _loop(images, rate, out, kind, quality)


def check_loop(count: int, size: tuple[int, int], name: str) -> None:
    """Refuse a loop of more pictures, or of larger ones, than can be."""
    most = min(LONGEST_LOOP, MOST_DOTS // (size[0] * size[1]))
    if count > most:
        raise Refusal(
            "loop-too-long",
            f"A loop of {count} pictures at {size[0]}×{size[1]} is too long; the most is {most}.",
            name,
            "Set a shorter range, a smaller size, or fewer frames a second.",
            most,
        )


def pictures_in(file: Path, kind: Kind, rate: Fraction, due: int) -> int:
    """How many of the output frames that are due a finished file shows, by its own count or its own times.

    A loop of one picture has no times: it shows them all.
    """
    if kind == "png":
        with zipfile.ZipFile(file) as archive:
            return len(archive.namelist()) if archive.testzip() is None else 0
    with Image.open(file) as loop:
        lasts = [_lasts(picture) for picture in ImageSequence.Iterator(loop)]
    return due if len(lasts) == 1 else round(sum(lasts) * rate / 1000)


def _lasts(picture: Image.Image) -> int:
    """For how many thousandths of a second a picture of a loop is seen; it is known when it is decoded."""
    picture.load()
    return int(picture.info.get("duration", 0))


def _told(images: Iterator[Image.Image], done: Callable[[int], None]) -> Iterator[Image.Image]:
    for count, image in enumerate(images, 1):
        yield image
        done(count)


def _sequence(images: Iterator[Image.Image], first: int, out: Path) -> None:
    """A picture a frame, in one archive without any dates: the same pictures are the same file."""
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        for n, image in enumerate(images, first):
            file = BytesIO()
            image.save(file, "png", compress_level=COMPRESSED)
            archive.writestr(zipfile.ZipInfo(f"{n:07d}.png"), file.getvalue())


def _loop(images: Iterator[Image.Image], rate: Fraction, out: Path, kind: Kind, quality: Quality) -> None:
    if kind == "gif":
        images = (image.quantize(COLOURS[quality], dither=Image.Dither.FLOYDSTEINBERG) for image in images)
    held = list(images)
    ticks = TICKS[kind]
    ends = [round(n * ticks / rate) for n in range(len(held) + 1)]
    durations = [1000 // ticks * int(gap) for gap in np.diff(ends)]
    how = {"quality": WEBP_QUALITY[quality], "method": 2} if kind == "webp" else {"optimize": False}
    held[0].save(out, kind, save_all=True, append_images=held[1:], duration=durations, loop=0, **how)
