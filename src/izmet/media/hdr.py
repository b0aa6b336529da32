"""How does a picture of high dynamic range look on an ordinary screen?

From its code values to light by its transfer, to the primaries of BT.709, rolled off above
the knee so that highlights keep their shape, and back to code values.

Sources: SMPTE ST 2084 (PQ), ITU-R BT.2100 (HLG and its system gamma), ITU-R BT.2408
(reference white of 203 cd/m²), ITU-R BT.2087 (matrix between primaries), ITU-R BT.1886
(display gamma). Constants are quoted from memory and checked in the tests against values
that the standards state. The roll-off is our own.
"""

from __future__ import annotations

from functools import cache
from typing import Any

import av
import cv2
import numpy as np
from av.video.reformatter import VideoReformatter
from numpy.typing import NDArray

Floats = NDArray[np.float32]

PQ, HLG = 16, 18
REFERENCE_WHITE, PEAK = 203.0, 1000.0
"""cd/m²: what becomes white, and the peak of the display that HLG is meant for."""
KNEE = 0.8
GAMMA = 2.4
STEPS = 1 << 12
"""Entries of the tables: 12 bits, as BT.2100 codes them."""
MOST_LIGHT = 12.0
"""In reference whites; beyond it all is white."""

TO_RGB = np.array([[1, 0, 1.4746], [1, -0.16455, -0.57135], [1, 1.8814, 0]], np.float32)
"""From Y′CbCr of BT.2020, colour differences centred on 0."""
TO_709 = np.array(
    [[1.6605, -0.5876, -0.0728], [-0.1246, 1.1329, -0.0083], [-0.0182, -0.1006, 1.1187]], np.float32
)


def to_sdr(frame: av.VideoFrame, size: tuple[int, int], reformatter: VideoReformatter) -> av.VideoFrame:
    """The picture in 8 bits and the primaries of BT.709, scaled to ``size``; not turned upright."""
    scaled = reformatter.reformat(frame, *size, format="yuv444p16le", threads=1)
    width, height = size
    rows = [
        np.frombuffer(memoryview(plane), np.uint16).reshape(-1, plane.line_size // 2)[:height, :width]
        for plane in scaled.planes
    ]
    code = np.stack(rows, axis=-1).astype(np.float32) / 256
    luma, colour = (code[..., :1] - 16) / 219, (code[..., 1:] - 128) / 224
    rgb = cv2.transform(np.concatenate([luma, colour], axis=-1), TO_RGB)
    light = cv2.transform(_looked_up(rgb, _to_light(int(frame.color_trc))), TO_709)
    shown = np.round(255 * _looked_up(light / MOST_LIGHT, _to_screen())).astype(np.uint8)
    plain = av.VideoFrame.from_ndarray(np.ascontiguousarray(shown), format="rgb24")
    plain.pts, plain.time_base = frame.pts, frame.time_base
    return plain


def pq_light(code: Floats) -> Floats:
    """Light in cd/m² of PQ code values 0..1 (SMPTE ST 2084)."""
    m1, m2 = 2610 / 16384, 2523 / 4096 * 128
    c1, c2, c3 = 3424 / 4096, 2413 / 4096 * 32, 2392 / 4096 * 32
    root = np.power(np.clip(code, 0, 1), 1 / m2)
    light: Floats = 10000 * np.power(np.maximum(root - c1, 0) / (c2 - c3 * root), 1 / m1)
    return light


def hlg_light(code: Floats) -> Floats:
    """Light in cd/m² of equal HLG code values 0..1, on a display of PEAK (ITU-R BT.2100)."""
    a, b, c = 0.17883277, 0.28466892, 0.55991073
    code = np.clip(code, 0, 1)
    scene = np.where(code <= 0.5, code**2 / 3, (np.exp((code - c) / a) + b) / 12)
    light: Floats = (PEAK * np.power(scene, 1.2)).astype(np.float32)
    return light


@cache
def _to_light(transfer: int) -> Floats:
    """Light in reference whites, for each code value."""
    code = np.linspace(0, 1, STEPS, dtype=np.float32)
    light = pq_light(code) if transfer == PQ else hlg_light(code)
    return (light / REFERENCE_WHITE).astype(np.float32)


@cache
def _to_screen() -> Floats:
    """Code values 0..1 of an ordinary screen, for light in parts of MOST_LIGHT."""
    light = np.linspace(0, MOST_LIGHT, STEPS * 4)
    over = np.maximum(light - KNEE, 0) / (1 - KNEE)
    rolled = np.where(light <= KNEE, light, KNEE + (1 - KNEE) * (1 - np.exp(-over)))
    screen: Floats = np.power(rolled, 1 / GAMMA).astype(np.float32)
    return screen


def _looked_up(values: Any, table: Floats) -> Floats:
    index = np.clip(values * (len(table) - 1) + 0.5, 0, len(table) - 1).astype(np.int32)
    found: Floats = table[index]
    return found
