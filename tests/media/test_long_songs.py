"""A song costs no more memory than what is looked at, whatever its file claims."""

from __future__ import annotations

import subprocess
import sys
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile

from izmet.core.document.limits import MOST_SONG_SECONDS
from izmet.core.document.refusal import Refusal
from izmet.media.songfile import flac_source, read_song, write_flac
from izmet.sound.cues import find_cues, listen
from tests.sound.machine import RATE, play

MEASURE = """
import resource, sys
from pathlib import Path
from izmet.media.songfile import read_song
from izmet.sound.cues import listen
before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
found = listen(read_song(Path(sys.argv[1]), "song"))
print(found.heard, (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024)
"""


def write_late(path: Path, seconds: float) -> Path:
    """A second of tone whose first sample is heard ``seconds`` after the file begins."""
    tone = (0.5 * np.sin(np.arange(RATE) / 10)).astype(np.float32)
    with av.open(str(path), "w") as out:
        # A picture stands at the file's beginning; its clock begins there.
        picture = out.add_stream("mpeg4", rate=1)
        picture.width = picture.height = 16
        picture.pix_fmt = "yuv420p"
        frame = av.VideoFrame.from_ndarray(np.zeros((16, 16), np.uint8), format="gray")
        frame.pts, frame.time_base = 0, Fraction(1)
        sound = out.add_stream("pcm_f32le", rate=RATE, layout="mono")
        out.mux(picture.encode(frame.reformat(format="yuv420p")))
        out.mux(picture.encode(None))
        heard = av.AudioFrame.from_ndarray(tone[None], "flt", "mono")
        heard.sample_rate, heard.pts = RATE, round(seconds * RATE)
        heard.time_base = Fraction(1, RATE)
        out.mux(sound.encode(heard))
        out.mux(sound.encode(None))
    return path


@pytest.mark.parametrize("seconds", [3.0, 7200.0])
def test_a_gap_is_silence_that_takes_no_room(tmp_path, seconds):
    song = read_song(write_late(tmp_path / "late.mkv", seconds), "late", tmp_path)
    assert song.duration == pytest.approx(seconds + 1, abs=0.002)
    around = song.stretch(round(seconds * RATE) - 1000, 2000)[:, 0]
    assert not around[:900].any()
    assert np.abs(around[1100:]).max() > 0.4


def test_a_song_longer_than_any_is_refused_with_the_figure(tmp_path):
    with pytest.raises(Refusal) as refused:
        read_song(write_late(tmp_path / "late.mkv", MOST_SONG_SECONDS + 60), "late", tmp_path)
    assert refused.value.code == "too-long"
    assert "6 hours" in refused.value.what
    assert list(tmp_path.iterdir()) == [tmp_path / "late.mkv"]


def test_what_is_read_in_stretches_is_heard_as_what_is_held(tmp_path):
    played = play(124, bars=12)
    samples = np.repeat(played.samples, 2, axis=1)
    path = tmp_path / "song.wav"
    soundfile.write(path, samples, RATE, subtype="FLOAT")
    assert listen(read_song(path, path.name)) == find_cues(samples, RATE)


def test_half_an_hour_of_silence_costs_little(tmp_path):
    path = tmp_path / "silence.flac"
    soundfile.write(path, np.zeros((1800 * 8000, 2), np.float32), 8000)
    assert path.stat().st_size < 1 << 20
    told = subprocess.run(
        [sys.executable, "-c", MEASURE, str(path)], capture_output=True, text=True, check=True
    )
    heard, megabytes = map(float, told.stdout.split())
    assert heard == 1800
    assert megabytes < 80  # all at once they would be 230 MB as read, more as heard


def test_what_is_played_of_a_song_is_what_its_file_holds_now(tmp_path):
    path = tmp_path / "song.flac"
    for count in (100, 300):
        write_flac(path, RATE, 1, [np.full((count, 1), count / 1000, np.float32)])
        source = flac_source(path)
        assert source.count == count
        assert source.read(0, 1)[0, 0] == pytest.approx(count / 1000, abs=1e-4)
    assert flac_source(path) is source, "the same file has one source, by which what is made of it is kept"
