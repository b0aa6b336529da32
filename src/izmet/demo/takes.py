"""The takes of the Skerry Run, and how they are written: the simulated capture device."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np

from izmet.core.document.edit import MomentKind
from izmet.demo.scene import Picture, Scene
from izmet.demo.takesound import RATE, take_sound
from izmet.media.pictures import plane_array

SIZE = (1280, 720)
SOUND_BLOCK = 1024
TO_BT709 = np.array(
    [
        [0.1826, 0.6142, 0.0620, 16],
        [-0.1006, -0.3386, 0.4392, 128],
        [0.4392, -0.3989, -0.0403, 128],
    ]
)
"""R, G, B in 0..255 to limited-range Y, Cb, Cr: ITU-R BT.709-6, items 3.2 to 3.5, scaled."""


@dataclass(frozen=True)
class DemoMoment:
    """A moment that is known by construction: kind, label, and the instant at which it first shows."""

    kind: MomentKind
    label: str
    time: float


@dataclass(frozen=True)
class DemoTake:
    """A take to draw. ``held`` frames in a row show one picture; ``varying`` drops frames now and then."""

    name: str
    rate: Fraction
    seconds: float
    scene: Scene
    moments: tuple[DemoMoment, ...]
    held: int = 1
    varying: bool = False

    @property
    def file_name(self) -> str:
        return self.name.lower().replace(" ", "-").replace(",", "") + (".mkv" if self.varying else ".mp4")

    @property
    def frames(self) -> int:
        return round(self.seconds * self.rate)

    def frame_of(self, time: float) -> int:
        """The first frame that shows what happens at an instant."""
        step = self.rate / self.held
        return int(np.ceil(round(time * float(step), 6))) * self.held

    def truth(self) -> dict[str, Any]:
        """What is known of the take, as JSON values."""
        return {
            "rate": str(self.rate),
            "distinct": str(self.rate / self.held),
            "frames": self.frames,
            "moments": [
                {"kind": m.kind, "label": m.label, "frame": self.frame_of(m.time)} for m in self.moments
            ],
        }


TAKES = (
    DemoTake(
        "Gannet off the swell", Fraction(120), 8.0,
        Scene("Gannet", SIZE, "right", "swell", lift=3.0, hit=5.0),
        (
            DemoMoment("start", "run-up", 0.5),
            DemoMoment("action", "lift-off", 3.0),
            DemoMoment("impact", "splash-down", 5.0),
            DemoMoment("end", "away", 7.5),
        ),
    ),
    DemoTake(
        "Pilchard cuts the ribbon", Fraction(60), 6.5,
        Scene("Pilchard", SIZE, "left", "ribbon", lift=0, hit=3.5, seed=3),
        (DemoMoment("start", "approach", 1.0), DemoMoment("impact", "ribbon", 3.5)),
    ),
    DemoTake(
        "Tern rings the bell", Fraction(60), 6.0,
        Scene("Tern", SIZE, "forward", "bell", lift=0, hit=4.0, seed=5),
        (DemoMoment("impact", "bell", 4.0),),
        held=2,
    ),
    DemoTake(
        "Harbour pass", Fraction(24), 8.0,
        Scene("Gannet", SIZE, "left", "none", lift=0, hit=4.0, seed=8),
        (DemoMoment("action", "level", 4.0),),
    ),
    DemoTake(
        "Tern, handheld", Fraction(60), 5.0,
        Scene("Tern", SIZE, "right", "swell", lift=1.5, hit=3.0, seed=11, sway=1.0),
        (DemoMoment("action", "lift-off", 1.5), DemoMoment("impact", "splash-down", 3.0)),
        varying=True,
    ),
)  # fmt: skip


def write_take(take: DemoTake, folder: Path, progress: Callable[[], None]) -> Path:
    """Draw and encode a take, and write its truth beside it. ``progress`` is called once a frame."""
    path = folder / take.file_name
    tick = Fraction(1, 1000) if take.varying else 1 / take.rate
    with av.open(str(path), "w") as container:
        stream = container.add_stream(
            "libx264", rate=take.rate, options={"preset": "ultrafast", "crf": "21", "g": "48"}
        )
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p"
        stream.codec_context.time_base = tick
        stream.codec_context.color_range, stream.codec_context.colorspace = 1, 1
        sound = container.add_stream("aac", rate=RATE, layout="mono")
        picture: av.VideoFrame | None = None
        for number in range(take.frames):
            progress()
            if take.varying and _is_dropped(number):
                continue
            time = Fraction(number) / take.rate
            if picture is None or number % take.held == 0:
                picture = _coded(take.scene.draw(float(time)))
            picture.pts, picture.time_base, picture.pict_type = round(time / tick), tick, 0
            container.mux(stream.encode(picture))
        container.mux(stream.encode(None))
        _write_sound(take, container, sound)
    path.with_suffix(".truth.json").write_text(json.dumps(take.truth(), indent=2))
    return path


def _write_sound(take: DemoTake, container: av.container.OutputContainer, stream: av.AudioStream) -> None:
    hits = [moment.time for moment in take.moments if moment.kind == "impact"]
    samples = take_sound(take.seconds, hits, take.scene.seed)
    for begin in range(0, len(samples), SOUND_BLOCK):
        block = np.ascontiguousarray(samples[None, begin : begin + SOUND_BLOCK])
        frame = av.AudioFrame.from_ndarray(block, format="fltp", layout="mono")
        frame.sample_rate, frame.pts, frame.time_base = RATE, begin, Fraction(1, RATE)
        container.mux(stream.encode(frame))
    container.mux(stream.encode(None))


def _coded(picture: Picture) -> av.VideoFrame:
    """An RGB picture as BT.709 4:2:0."""
    frame = av.VideoFrame(picture.shape[1], picture.shape[0], "yuv420p")
    y, u, v = cv2.split(cv2.transform(picture, TO_BT709))
    half = (picture.shape[1] // 2, picture.shape[0] // 2)
    chroma = [cv2.resize(plane, half, interpolation=cv2.INTER_AREA) for plane in (u, v)]
    for target, plane in zip(frame.planes, [y, *chroma], strict=True):
        plane_array(target)[:, : plane.shape[1]] = plane
    return frame


def _is_dropped(number: int) -> bool:
    """Where the simulated phone misses frames: every other one for a second, in the middle of the take."""
    return 60 <= number < 120 and number % 2 == 1
