"""What is heard when: the song where it is heard, a clip's own sound with its moment on the cue."""

import pytest

from izmet.core import commands as do
from izmet.core.mix import SONG, voices
from izmet.core.music.facts import music_facts
from tests.core.examples import tied_edit


@pytest.fixture
def edit():
    return tied_edit([(1.0, 100), (2.0, 160)])


def test_clips_are_mute_until_they_are_turned_up(edit):
    (song,) = voices(edit)
    assert (song.source, song.origin, song.begin, song.end, song.level) == (SONG, 0, 0, 600, 1)


def test_the_sound_of_the_first_moment_is_heard_on_its_cue(edit):
    _, own = voices(do.apply(edit, do.SetLevel(clip="clip-1", level=0.5)))
    assert own.source == "gannet"
    assert own.level == 0.5
    assert own.origin + 100 / 60 == pytest.approx(1.0)
    assert (own.begin, own.end) == (1.0, pytest.approx(121 / 60))


def test_a_moved_and_trimmed_song_is_heard_there(edit):
    placed = do.apply(edit, do.PlaceSong(start=0.5, heard_from=2, heard_to=9))
    song = voices(placed)[0]
    assert (song.origin, song.begin, song.end) == (0.5, 2.5, 9.5)
    facts = music_facts(placed)
    assert (facts.heard_from, facts.heard_to, facts.end) == (2.5, 9.5, 600.5)


def test_the_tempo_is_the_beats(edit):
    assert music_facts(edit).tempo == 0
    counted = do.apply(edit, do.UseBeats(times=tuple(0.5 * k for k in range(20))))
    assert music_facts(counted).tempo == pytest.approx(120)
    assert music_facts(edit.model_copy(update={"song": None})) is None
