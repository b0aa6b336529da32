"""A song joined to itself: what is heard in which order, where its marks go, and what is tied goes along."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.arrange.songs import places_left
from izmet.core.document.edit import Cue, CueSelection, Section
from izmet.core.document.refusal import Refusal
from izmet.core.following.workings import derive
from izmet.core.music.joining import Join, best_joins, check_join, joined, pieces
from tests.core.examples import MEDIA, tied_edit

BARS = [2.0 * n for n in range(40)]
DURATION = 80.0


def alike_by_phrase(leave, enter):
    """A song that comes again every eight bars."""
    return np.where((leave - enter) % 8 == 0, 1.0, 0.4)


@given(st.floats(-60, -4))
def test_a_shorter_song_leaves_out_what_comes_again_and_ends_near_what_is_asked(longer):
    found = best_joins(BARS, longer, alike_by_phrase)
    assert found
    for each in found:
        assert each.join.enter > each.join.leave
        assert abs(each.join.longer - longer) <= 8 + 1e-9, "four bars beside it at most"
    worth = [each.alike for each in found]
    if abs(longer / 16 - round(longer / 16)) < 0.2 and round(longer / 16):
        assert worth[0] == 1.0


@given(st.floats(4, 200))
def test_a_longer_song_goes_back_as_often_as_it_takes(longer):
    found = best_joins(BARS, longer, alike_by_phrase)
    assert found
    for each in found:
        assert each.join.enter < each.join.leave
        assert abs(each.join.longer - longer) <= 8 + 1e-9


def test_what_is_tied_is_left_in_where_another_place_is_as_good():
    tied = [20.5, 22.0, 23.5]
    for each in best_joins(BARS, -16, alike_by_phrase, tied)[:3]:
        assert not any(each.join.leave < at < each.join.enter for at in tied)


def test_a_place_that_is_heard_as_another_song_is_not_offered():
    assert best_joins(BARS, -16, lambda leave, enter: np.full(len(leave), 0.3)) == []


def test_joins_of_a_song_without_bars_are_none():
    assert best_joins([], -4, alike_by_phrase) == []
    assert best_joins([1.0], -4, alike_by_phrase) == []


joins = st.builds(
    lambda a, b, times: Join(BARS[a], BARS[b], times if b < a else 1),
    st.integers(1, 38),
    st.integers(0, 39),
    st.integers(1, 4),
).filter(lambda join: join.leave != join.enter)


@given(joins, st.lists(st.floats(0, DURATION), max_size=30))
def test_each_mark_is_where_its_sound_is_heard(join, times):
    cues = tuple(Cue(id=f"cue-{n}", time=time, kind="kick") for n, time in enumerate(sorted(times)))
    song = tied_edit([(1.0, 60)]).song.model_copy(update={"cues": cues, "duration": DURATION})
    found = joined(song, join)
    parts = pieces(DURATION, join)
    assert found.duration == pytest.approx(DURATION + join.longer)
    assert sum(end - begin for begin, end in parts) == pytest.approx(found.duration)
    assert len({cue.id for cue in found.cues}) == len(found.cues)
    assert [cue.time for cue in found.cues] == sorted(cue.time for cue in found.cues)
    # Laid out by the pieces alone, as a listener would hear them.
    starts = np.cumsum([0, *(end - begin for begin, end in parts)])
    wanted = sorted(
        start + cue.time - begin
        for (begin, end), start in zip(parts, starts, strict=False)
        for cue in cues
        if begin <= cue.time < end - 0.02 or (end == DURATION and cue.time >= begin)
    )
    heard = [cue.time for cue in found.cues]
    extra = [time for time in heard if not any(abs(time - other) < 1e-6 for other in wanted)]
    assert all(any(abs(time - start) < 1e-6 for start in starts) for time in extra), "just before a join"
    assert all(any(abs(time - other) < 1e-6 for other in heard) for time in wanted)


def song_of_bars(edit):
    """The edit's song with a downbeat at each bar, a section and a selection."""
    cues = [Cue(id=f"bar-{n}", time=time, kind="downbeat") for n, time in enumerate(BARS)]
    song = edit.song.model_copy(
        update={
            "duration": DURATION,
            "cues": tuple(sorted((*edit.song.cues, *cues), key=lambda cue: cue.time)),
            "sections": (Section(kind="build", start=16.0, end=40.0),),
            "selections": (CueSelection(id="bars", name="bars", kinds=("downbeat",), begin=4.0, end=60.0),),
            "media": MEDIA,
        }
    )
    return edit.model_copy(update={"song": song})


def join_of(edit, join: Join, **more) -> do.JoinSong:
    said = {"of": MEDIA.sha256, "duration": DURATION + join.longer, "places": places_left(edit, join)}
    return do.JoinSong(media=MEDIA, **join._asdict(), **said | more)


def test_ties_follow_a_song_that_is_shorter_and_those_on_the_join_stay():
    edit = song_of_bars(tied_edit([(10.5, 60), (60.5, 400)]))
    join = Join(20.0, 52.0)
    shorter = do.apply(edit, join_of(edit, join))
    assert shorter.song.duration == pytest.approx(48)
    assert [shorter.frame_of(f"cue-{n}") for n in (0, 1)] == [630, 1710], "32 s earlier after the join"
    (clip,) = shorter.clips
    assert [pin.cue for pin in clip.pins] == ["cue-0", "cue-1"]
    landed = derive(shorter).clips[0].landings
    assert [each.landed_frame for each in landed] == [630, 1710]
    assert shorter.song.sections == (Section(kind="build", start=16.0, end=20.0),)
    (selection,) = shorter.song.selections
    assert (selection.begin, selection.end) == (4.0, 28.0)

    # A tie on the bar at which it leaves off is now on the one from which it goes on.
    on_bar = song_of_bars(tied_edit([(10.5, 60), (20.0, 200)]))
    on_bar = do.apply(on_bar, do.ChangeTie(clip="clip-1", pin="pin-1", cue="bar-10"))
    moved = do.apply(on_bar, join_of(on_bar, join))
    assert moved.clips[0].pins[1].cue == "bar-26"
    assert moved.frame_of("bar-26") == 1200


def test_what_was_tied_to_what_is_left_out_is_loose_and_stays_in_order():
    edit = song_of_bars(tied_edit([(10.5, 60), (30.0, 200), (45.0, 300), (60.5, 400)]))
    shorter = do.apply(edit, join_of(edit, Join(20.0, 52.0)))
    (clip,) = shorter.clips
    assert [pin.cue for pin in clip.pins] == ["cue-0", None, None, "cue-3"]
    frames = [shorter.place_of(pin) for pin in clip.pins]
    assert frames == sorted(set(frames))
    assert all(clip.pins[n].loose is not None for n in (1, 2))


def test_what_is_heard_again_has_its_cues_again_and_what_comes_after_follows():
    edit = song_of_bars(tied_edit([(10.5, 60), (30.5, 400)]))
    longer = do.apply(edit, join_of(edit, Join(16.0, 8.0, 2)))
    assert longer.song.duration == pytest.approx(96)
    assert longer.frame_of("cue-1") == round(46.5 * 60)
    again = [cue.time for cue in longer.song.cues if cue.kind == "kick"]
    assert again == pytest.approx([10.5, 18.5, 26.5, 46.5])


def test_a_song_that_was_changed_meanwhile_is_not_joined():
    edit = song_of_bars(tied_edit([(10.5, 60), (60.5, 400)]))
    for wish in (join_of(edit, Join(4.0, 8.0), of="1" * 64), join_of(edit, Join(4.0, 4.0))):
        with pytest.raises(Refusal):
            do.apply(edit, wish)


@pytest.mark.parametrize(
    ("join", "code"),
    [
        (Join(4.0, 4.0), "no-join"),
        (Join(4.0, DURATION + 1), "join-outside"),
        (Join(1e9, 4.0), "join-outside"),
        (Join(3600.0, 0.0, 16), "song-too-long"),
    ],
)
def test_a_join_that_cannot_be_says_why(join, code):
    song = song_of_bars(tied_edit([(10.5, 60), (60.5, 400)])).song
    if code == "song-too-long":
        song = song.model_copy(update={"duration": 5.0 * 3600})
    with pytest.raises(Refusal) as refused:
        check_join(song, join)
    assert refused.value.code == code


def test_a_mark_at_the_very_end_stays_though_the_file_ends_a_sample_earlier():
    edit = song_of_bars(tied_edit([(10.5, 60), (60.5, 400)]))
    edit = do.apply(edit, do.AddCue(time=DURATION))
    shorter = do.apply(edit, join_of(edit, Join(20.0, 52.0), duration=48 - 1e-5))
    assert shorter.song.cues[-1].time == shorter.song.duration == pytest.approx(48)
