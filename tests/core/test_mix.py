"""What is heard when: the song where it is heard, a clip's own sound along with its picture."""

from contextlib import suppress

import numpy as np
import pytest
from hypothesis import given

from izmet.core import commands as do
from izmet.core.document.edit import Dip, Edit, parse_edit
from izmet.core.document.refusal import Refusal
from izmet.core.music.facts import music_facts
from izmet.core.retime.solve import solve
from izmet.core.shown.mix import SONG, voices
from tests.core.examples import tied_edit
from tests.core.test_stack import CUT, two_clips
from tests.core.wishes import wished


@pytest.fixture
def edit():
    return tied_edit([(1.0, 100), (2.0, 160)])


def test_clips_are_mute_until_they_are_turned_up(edit):
    (song,) = voices(edit)
    assert (song.source, song.way.origin, song.begin, song.end, song.level) == (SONG, 0, 0, 600, 1)


def test_the_sound_of_every_moment_is_heard_on_its_cue():
    edit = tied_edit([(1.0, 100), (2.0, 130), (2.5, 400)], [Dip(strength=0.7), Dip()])
    _, own = voices(do.apply(edit, do.SetLevel(clip="clip-1", level=0.5)))
    assert (own.source, own.level) == ("gannet", 0.5)
    assert (own.begin, own.end) == (1.0, pytest.approx(151 / 60))
    seconds, _ = own.way.at(np.array([1.0, 2.0, 2.5]))
    assert seconds.tolist() == pytest.approx([100 / 60, 130 / 60, 400 / 60])


@given(wished())
def test_a_clips_sound_goes_as_its_picture_does_whatever_is_done_with_it(case):
    edit, wish = case
    with suppress(Refusal):
        edit = do.apply(edit, wish)
    _, own = voices(do.apply(edit, do.SetLevel(clip="clip-1", level=1)))
    curve, rate = solve(edit, edit.clip("clip-1")), float(edit.rate)
    seconds, speed = own.way.at(curve.frames / rate + 1e-9)  # where the speed changes, the new one
    np.testing.assert_allclose(seconds, curve.source / 60, atol=1e-6)
    # By then it has changed, the more the steeper it does.
    np.testing.assert_allclose(speed, curve.speed, atol=1e-6 + 1e-6 * np.ptp(curve.speed))
    # Between the frames it moves by what its speed comes to; past the end it goes on.
    fine = np.linspace(own.begin, own.end, 40_001)
    seconds, speed = own.way.at(fine)
    passed = (speed[1:] + speed[:-1]) / 2 * np.diff(fine)
    odd = np.abs(np.diff(seconds) - passed) > 1e-4 + 0.05 * np.abs(passed)
    assert odd.sum() <= 2 * len(curve.segments)  # where the speed changes at once, or frames are left out


def test_two_ways_are_told_alike_only_where_they_are():
    edit = do.apply(tied_edit([(1.0, 100), (2.0, 160)], [Dip()]), do.SetLevel(clip="clip-1", level=1))
    bent = do.apply(edit, do.SetValue(clip="clip-1", span=0, name="strength", value=0.9))
    told = [voices(each)[1].told for each in (edit, edit.model_copy(deep=True), bent)]
    assert told[0] == told[1] != told[2]


def test_a_moved_and_trimmed_song_is_heard_there(edit):
    placed = do.apply(edit, do.PlaceSong(start=0.5, heard_from=2, heard_to=9))
    song = voices(placed)[0]
    assert (song.way.origin, song.begin, song.end) == (0.5, 2.5, 9.5)
    facts = music_facts(placed)
    assert (facts.heard_from, facts.heard_to, facts.end) == (2.5, 9.5, 600.5)


def test_the_tempo_is_the_beats(edit):
    assert music_facts(edit).tempo == 0
    counted = do.apply(edit, do.UseBeats(times=tuple(0.5 * k for k in range(20))))
    assert music_facts(counted).tempo == pytest.approx(120)
    assert music_facts(edit.model_copy(update={"song": None})) is None


def heard(edit: Edit) -> list[tuple[str, int, int]]:
    """Each take's stretches, in output frames."""
    return [
        (each.source, round(each.begin * 60), round(each.end * 60))
        for each in voices(edit)
        if each.source != SONG
    ]


def loud(edit: Edit) -> Edit:
    for clip in ("going", "coming"):
        edit = do.apply(edit, do.SetLevel(clip=clip, level=1))
    return edit


def test_a_clip_under_another_is_heard_only_where_that_is_wished():
    edit = loud(two_clips())
    assert heard(edit) == [("gannet", 0, CUT), ("flyby", CUT, 121)]
    whole = edit.clips[0].model_copy(update={"until": None})
    over = edit.model_copy(update={"clips": (whole, edit.clips[1])})
    assert heard(over) == [("gannet", 0, CUT), ("flyby", CUT, 121)]
    wished = do.apply(over, do.SetLevel(clip="going", under=True))
    assert heard(wished) == [("gannet", 0, CUT + 3), ("flyby", CUT, 121)]
    inset = do.apply(over, do.Anyway(command=do.InsetClip(clip="coming")))
    assert heard(inset) == [("gannet", 0, CUT + 3), ("flyby", CUT, 121)], "an inset hides no sound"
    dark = do.apply(edit, do.AddBlack(since=30, until=40))
    assert heard(dark) == heard(edit), "nor does black"


def test_early_documents_are_heard_as_they_were():
    document = loud(two_clips()).model_dump(mode="json")
    for clip in document["clips"]:
        del clip["under"]
    document["version"] = 14
    assert [clip.under for clip in parse_edit(document).clips] == [True, True]
    document["version"] = 15
    assert [clip.under for clip in parse_edit(document).clips] == [False, False]
