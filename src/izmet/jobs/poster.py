"""One picture of a finished file, to stand for it where it is shown."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import simplejpeg

from izmet.core.document.refusal import Refusal

QUALITY = 92


def poster_of(exported: Path, index: int) -> bytes:
    """A picture of a file as JPEG, in the file's own size.

    Args:
        index: how many pictures come before it.

    Raises:
        Refusal: the file has no such picture.
    """
    with av.open(str(exported)) as container:
        film = container.streams.video[0]
        base, rate = Fraction(film.time_base or 1), Fraction(film.average_rate or 1)
        wanted = (film.start_time or 0) * base + (index - Fraction(1, 2)) / rate
        container.seek(int(wanted / base), stream=film)
        for frame in container.decode(film):
            if frame.pts is not None and frame.pts * base >= wanted:
                picture = np.ascontiguousarray(frame.to_ndarray(format="rgb24"))
                return bytes(simplejpeg.encode_jpeg(picture, QUALITY))
    raise Refusal("no-such-picture", f"The file has no frame {index}.", exported.name, "Choose another.")
