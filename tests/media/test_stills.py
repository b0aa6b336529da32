"""Loops and sequences of pictures, read by other code: each picture is seen as long as it should be."""

import zipfile
from fractions import Fraction

import cv2
import numpy as np
import pytest
from PIL import Image, ImageSequence

from izmet.core import commands as do
from izmet.core.document.refusal import Refusal
from izmet.core.shown.stack import frames_exported
from izmet.jobs.delivery import Delivery
from izmet.media.render import render
from izmet.media.stills import LONGEST_LOOP, pictures_in
from tests.media.files import BITS, write_numbered
from tests.media.test_render import looked_at
from tests.media.test_stack import SIZE, two_takes


def numbered_takes(folder):
    return {
        id: looked_at(write_numbered(folder / f"{id}.mkv", 120, codec="ffv1")) for id in ("dark", "light")
    }


def number_in(picture: np.ndarray) -> int:
    """The number that a picture of ``write_numbered`` shows."""
    grey = cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY).astype(int)
    wide = grey.shape[1] // BITS
    return sum(int(grey[20:-20, b * wide + 4 : (b + 1) * wide - 4].mean() > 128) << b for b in range(BITS))


def test_a_sequence_has_a_picture_for_each_frame(tmp_path):
    files = numbered_takes(tmp_path)
    edit = do.apply(two_takes(files), do.SetRange(since=18, until=44))
    render(edit, files, None, tmp_path / "out.zip", "png")
    with zipfile.ZipFile(tmp_path / "out.zip") as archive:
        assert archive.namelist() == [f"{n:07d}.png" for n in range(18, 44)]
        pictures = [
            cv2.imdecode(np.frombuffer(archive.read(name), np.uint8), cv2.IMREAD_COLOR)
            for name in archive.namelist()
        ]
    assert all(picture.shape == (SIZE[1], SIZE[0], 3) for picture in pictures)
    # The hit of the first take, frame 30, lands on 20; the one of the second on the cut, 40.
    seen = [number_in(picture) for picture in pictures]
    assert seen == [*range(28, 50), *range(30, 34)]


@pytest.mark.parametrize("quality", ["small", "good", "best"])
@pytest.mark.parametrize("kind", ["gif", "webp"])
def test_a_loop_shows_each_picture_when_it_is_due(tmp_path, kind, quality):
    files = numbered_takes(tmp_path)
    asked = Delivery(format=kind, quality=quality)
    edit = asked.of(do.apply(two_takes(files), do.SetRange(since=20, until=80)))
    assert (edit.rate, edit.width, edit.height) == (30, *SIZE)
    render(edit, files, None, tmp_path / "out", kind, quality=quality)
    with Image.open(tmp_path / "out") as loop:
        assert loop.info.get("loop") == 0, "it goes on for ever"
        lasts, seen = [], []
        for each in ImageSequence.Iterator(loop):
            seen.append(number_in(np.array(each.convert("RGB"))[..., ::-1]))
            lasts.append(int(each.info["duration"]))
    ends = np.cumsum(lasts)
    step = 10 if kind == "gif" else 1
    due = [1000 * (n + 1) / 30 for n in range(len(lasts))]
    assert np.abs(ends - due).max() <= step / 2 + 1e-9
    assert ends[-1] == 1000
    # At 30 frames a second the cues land on 10 and 20: every second frame of the takes is seen.
    assert seen == [*range(30, 50, 2), *range(30, 70, 2)]


def test_a_loop_of_a_large_picture_is_small(tmp_path):
    files = numbered_takes(tmp_path)
    edit = do.apply(two_takes(files), do.Configure(width=1080, height=1920, rate="24000/1001"))
    small = Delivery(format="gif").of(edit)
    assert (small.width, small.height, small.rate) == (360, 640, Fraction(24000, 1001))
    assert Delivery(format="gif", width=200, height=200, rate="10").of(edit).rate == 10


def test_a_loop_that_is_too_long_is_refused(tmp_path):
    files = numbered_takes(tmp_path)
    edit = do.apply(two_takes(files), do.AddTitle(text="HEAT THREE", since=10, until=LONGEST_LOOP + 9))
    with pytest.raises(Refusal, match=str(LONGEST_LOOP)) as refused:
        render(edit, files, None, tmp_path / "out", "gif")
    assert refused.value.remedy
    assert not list(tmp_path.glob("*.part"))


def test_a_loop_that_would_not_fit_into_memory_is_refused(tmp_path):
    files = numbered_takes(tmp_path)
    edit = do.apply(two_takes(files), do.Configure(width=3840, height=2160))
    with pytest.raises(Refusal, match="3840×2160"):
        render(edit, files, None, tmp_path / "out", "webp")


@pytest.mark.parametrize("kind", ["gif", "webp"])
@pytest.mark.parametrize("stretch", [(20, 22), (20, 80)])
def test_a_loop_of_one_picture_is_whole(tmp_path, kind, stretch):
    """A range of one frame, and many frames that are all alike."""
    still = write_numbered(tmp_path / "still.mkv", 120, codec="ffv1", numbers=[7] * 120)
    files = {id: looked_at(still) for id in ("dark", "light")}
    edit = do.apply(two_takes(files), do.SetRange(since=stretch[0], until=stretch[1]))
    edit = Delivery(format=kind).of(edit)
    render(edit, files, None, tmp_path / "out", kind)
    due = len(frames_exported(edit))
    assert pictures_in(tmp_path / "out", kind, edit.rate, due) == due
