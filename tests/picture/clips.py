"""Takes whose truth is known by construction: a textured world, a moving camera, and what happens."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np

from izmet.media.pack import Looked, look_at
from izmet.media.probe import picture_of, probe

MARGIN = 1.6


@dataclass(frozen=True)
class Flash:
    """Light that rises by ``level`` (0..1) in a part of the picture, and fades: round in its middle, or
    ``top`` and ``left`` parts of it away from its corner."""

    frame: int
    level: float = 0.6
    part: float = 1.0
    lasts: int = 8
    round: bool = False
    top: float = 0.0
    left: float = 0.0


@dataclass(frozen=True)
class Strike:
    """A mark that appears over the picture, and with it a shake of so many parts of its width."""

    frame: int
    size: float = 0.12
    shake: float = 0.01
    lasts: int = 14


@dataclass(frozen=True)
class Clip:
    """What is to be drawn. ``pan`` is the content's movement a new picture, in pixels."""

    seed: int = 0
    size: tuple[int, int] = (640, 360)
    rate: Fraction = Fraction(60)
    frames: int = 180
    pan: tuple[float, float] = (2.0, 0.5)
    part: Fraction = Fraction(1)
    flashes: Sequence[Flash] = ()
    strikes: Sequence[Strike] = ()
    cuts: Sequence[int] = ()
    things: int = 3
    noise: float = 1.5
    still: Sequence[tuple[int, int]] = field(default_factory=tuple)
    world: str = "texture"
    counter: bool = False
    """Whether the number of the frame lies over the picture, as a game's own counters do."""
    late: Sequence[int] = ()
    """Frames on which the next picture was not there yet; all after it come a frame later."""


def texture(size: tuple[int, int], seed: int) -> np.ndarray:
    """A world with detail at all scales, luma as float32."""
    rng = np.random.default_rng(seed)
    wide, high = size
    world = np.zeros((high, wide), np.float32)
    for step in (4, 8, 16, 32, 64, 128):
        coarse = rng.standard_normal((high // step + 3, wide // step + 3)).astype(np.float32)
        world += cv2.resize(coarse, size, interpolation=cv2.INTER_CUBIC) * step**0.6
    world -= world.min()
    return world * (rng.uniform(130, 220) / world.max()) + rng.uniform(5, 30)


def boxes(size: tuple[int, int], seed: int) -> np.ndarray:
    """An even ground with even boxes on it, luma as float32."""
    rng = np.random.default_rng(seed)
    world = np.full(size[::-1], rng.uniform(20, 120), np.float32)
    for _ in range(60):
        x, y = (int(rng.integers(side)) for side in size)
        wide, high = (int(part * size[0]) for part in rng.uniform(0.02, 0.15, 2))
        cv2.rectangle(world, (x, y), (x + wide, y + high), rng.uniform(0, 255), -1)
    return world


def grains(size: tuple[int, int], seed: int) -> np.ndarray:
    """Noise without any structure, luma as float32."""
    return np.random.default_rng(seed).uniform(0, 255, size[::-1]).astype(np.float32)


def checks(size: tuple[int, int], seed: int) -> np.ndarray:
    """Squares by turns, luma as float32; of another size for the next seed."""
    smallest = size[0] // 40
    side = smallest + 5 * seed % (size[0] // 20 - smallest)
    rows, columns = np.mgrid[: size[1], : size[0]]
    return (((columns // side + rows // side) % 2) * 130 + 50).astype(np.float32)


WORLDS: dict[str, Callable[[tuple[int, int], int], np.ndarray]] = {
    "texture": texture,
    "boxes": boxes,
    "dark": lambda size, seed: boxes(size, seed) * 0.15,
    "grains": grains,
    "checks": checks,
    "flat": lambda size, seed: np.full(size[::-1], 20 + seed * 37 % 120, np.float32),
}


def new_pictures(clip: Clip) -> np.ndarray:
    """The number of the distinct picture that each frame shows."""
    held = np.searchsorted(np.sort(clip.late), np.arange(clip.frames), side="right")
    return np.array([int((k - late) * clip.part) for k, late in enumerate(held.tolist())])


def draw(clip: Clip) -> list[np.ndarray]:
    """The frames, luma as uint8."""
    rng = np.random.default_rng(clip.seed + 99)
    wide, high = clip.size
    edges = [0, *clip.cuts, clip.frames]
    shown = new_pictures(clip)
    kept: dict[int, np.ndarray] = {}
    place = np.zeros(2)
    frames: list[np.ndarray] = []
    scene = -1
    for k in range(clip.frames):
        if k and shown[k] == shown[k - 1]:
            frames.append(frames[-1])
            continue
        if scene + 2 < len(edges) and k >= edges[scene + 1]:
            scene += 1
            ground = (round(wide * MARGIN), round(high * MARGIN))
            kept = {0: WORLDS[clip.world](ground, clip.seed * 31 + scene)}
            paths = rng.uniform(-4, 4, (clip.things, 2)) * wide / 640
            starts = rng.uniform(0.2, 0.8, (clip.things, 2)) * (wide, high)
            place = np.zeros(2)
        elif not any(begin <= k < end for begin, end in clip.still):
            place = place + clip.pan
        frames.append(_frame(clip, k, kept[0], place, starts + paths * k, rng))
    return frames


def _frame(clip: Clip, k: int, world: np.ndarray, place: np.ndarray, things: np.ndarray, rng) -> np.ndarray:
    wide, high = clip.size
    shake = np.zeros(2)
    for strike in clip.strikes:
        since = k - strike.frame
        if 0 <= since < strike.lasts:
            shake = (
                strike.shake
                * wide
                * np.exp(-since / 4)
                * np.array([np.cos(2.1 * since), np.sin(1.7 * since + 1)])
            )
    away = (MARGIN - 1) / 2 * np.array([wide, high])
    # The camera turns back at the world's edge, smoothly enough never to jump.
    x, y = away - place - shake
    way = np.array([[1, 0, x], [0, 1, y]], np.float32)
    picture = cv2.warpAffine(
        world, way, clip.size, flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REFLECT_101
    )
    for x, y in np.abs((things + clip.size) % (2 * wide, 2 * high) - clip.size):
        cv2.circle(picture, (int(x), int(y)), max(3, wide // 40), 235.0, -1)
    for strike in clip.strikes:
        since = k - strike.frame
        if 0 <= since < strike.lasts:
            reach = round(strike.size * wide / 2)
            middle = (wide // 2, high // 2)
            for dx, dy in ((1, 1), (1, -1)):
                one = (middle[0] - dx * reach, middle[1] - dy * reach)
                other = (middle[0] + dx * reach, middle[1] + dy * reach)
                cv2.line(picture, one, other, 255.0, max(2, wide // 110))
    lighten(picture, k, clip.flashes)
    picture = np.clip(picture + rng.normal(0, clip.noise, picture.shape), 0, 255).astype(np.uint8)
    if clip.counter:
        cv2.putText(
            picture, f"{k:05d}", (wide // 64, high // 9), cv2.FONT_HERSHEY_SIMPLEX, wide / 640, 255, 2
        )
    return picture


def lighten(picture: np.ndarray, frame: int, flashes: Sequence[Flash]) -> None:
    """Add the light of flashes to one frame, luma as floats."""
    high, wide = picture.shape
    rows, columns = np.mgrid[:high, :wide]
    for lit in flashes:
        since = frame - lit.frame
        if not 0 <= since < lit.lasts:
            continue
        side = np.sqrt(lit.part)
        down, across = rows - int(lit.top * high), columns - int(lit.left * wide)
        there = (down >= 0) & (down < round(high * side)) & (across >= 0) & (across < round(wide * side))
        if lit.round:
            there = np.hypot(columns / wide - 0.5, rows / high - 0.5) < np.sqrt(lit.part / np.pi)
        picture[there] += 255 * lit.level * (1 - since / lit.lasts)


def encode(
    frames: Sequence[np.ndarray], rate: Fraction, path: Path, codec: str = "libx264", **options: str
) -> Path:
    """The frames in a file."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=rate, options=options)
        stream.height, stream.width = frames[0].shape
        pixels = stream.pix_fmt = "yuvj420p" if codec == "mjpeg" else "yuv420p"
        if codec == "mjpeg":
            stream.codec_context.color_range = 2
        if "b" in options:
            stream.bit_rate = int(options["b"])
        for k, luma in enumerate(frames):
            frame = av.VideoFrame.from_ndarray(luma, format="gray").reformat(format=pixels)
            frame.pts, frame.time_base = k, 1 / rate
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def see(path: Path, progress: Callable[[int], None] = lambda done: None) -> Looked:
    """Probe a take and look at it, as when it is taken in."""
    return look_at(path, path.name, picture_of(probe(path, path.name), path.name).size, progress)
