"""How two pictures of a frame pack move to one another, for whoever draws what is seen between them.

Written out: four uint16, the width and height of the motion and of the trust; a float32, the part
of the picture in which the way there and back does not lead home; then for each place of the
motion four float16, in pixels of the pack: across and down from the first picture to where the second
has it, and the same back; then for each place of the trust a uint8, 255 for all of it. All
little-endian, row by row.
Nothing at all where the two are of two scenes.
"""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
import simplejpeg

from izmet.media.pack import read_frame
from izmet.picture import flow
from izmet.picture.composing import Plane

COARSE, FINE = 4, 2
"""By how much smaller than the pictures the motion is told, which a draft finds in patches, and the trust."""


def pack_flow(pack: Path, index: Path, first: int, second: int) -> bytes | None:
    """The motion between two source frames, as a draft; None when the take has no such frames."""
    jpegs = [read_frame(pack, index, frame) for frame in (first, second)]
    if None in jpegs:
        return None
    one, other = (_luma(jpeg) for jpeg in jpegs if jpeg is not None)
    found = flow.flow_of(one, other, "draft")
    if found.is_cut:
        return b""
    high, wide = one.shape
    coarse, fine = ((max(1, wide // by), max(1, high // by)) for by in (COARSE, FINE))
    small = [np.asarray(cv2.resize(each, coarse)) for each in (found.forth, found.back)]
    motion = np.concatenate(small, axis=2) * found.by
    trust = np.asarray(cv2.resize(found.trust, fine), np.uint8)
    sizes = np.array([*coarse, *fine], "<u2")
    astray = np.array(found.astray, "<f4")
    told: bytes = sizes.tobytes() + astray.tobytes() + motion.astype("<f2").tobytes() + trust.tobytes()
    return told


def _luma(jpeg: bytes) -> Plane:
    grey: Plane = simplejpeg.decode_jpeg(jpeg, colorspace="GRAY")[:, :, 0]
    return grey
