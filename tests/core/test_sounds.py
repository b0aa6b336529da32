"""Sounds on cues, ties and cuts: when each is heard, and how the song gives way to it."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.arrange.songs import carry
from izmet.core.document.accents import OnCues, OnFrame, OnTies
from izmet.core.document.edit import CueSelection, Edit, parse_edit
from izmet.core.document.refusal import Refusal
from izmet.core.document.sounds import Duck, Made, Recorded
from izmet.core.document.values import Media
from izmet.core.shown.mix import SONG, voices
from izmet.core.shown.sounds import laid_sounds
from tests.core.test_stack import CUT, two_clips

HIT = {"clip": "going", "pin": "b"}
BELL = Recorded(media=Media(name="Bell.wav", sha256="b" * 64), duration=2.0, attack=0.25)


def laid(edit: Edit, *commands) -> list[tuple[float, float, float]]:
    """Beginning, place and length of each laid sound, in seconds."""
    for command in commands:
        edit = do.apply(edit, command)
    return [(each.begin, each.at, each.duration) for each in laid_sounds(edit)]


def on(*cues: str) -> dict:
    return {"to": "cues", "cues": list(cues)}


def test_a_sound_lies_with_its_attack_on_its_cue_or_on_its_frame():
    edit = do.apply(two_clips(), do.ChangeCue(cue="cue-30", time=0.5 + 0.004))
    (found,) = laid(edit, do.AddSound(at=on("cue-30"), what=BELL))
    assert found == pytest.approx((0.254, 0.504, 2.0))
    (found,) = laid(edit, do.AddSound(at=on("cue-30"), what=BELL, exact="frame"))
    assert found == pytest.approx((0.25, 0.5, 2.0))
    (found,) = laid(edit, do.AddSound(at=on("cue-30"), what=BELL, lands="end"))
    assert found == pytest.approx((0.504 - 2, 0.504, 2.0))
    (found,) = laid(edit, do.AddSound(at={"to": "ties", "ties": [HIT]}, what=Made(name="boom", length=1.5)))
    assert found == pytest.approx((0.504, 0.504, 1.5))
    (found,) = laid(edit, do.AddSound(at={"to": "cuts", "clips": ["coming"]}, what=Made(name="click")))
    assert found[0] == pytest.approx(CUT / 60)
    with pytest.raises(Refusal):
        do.apply(edit, do.AddSound(at=on("cue-5"), what=BELL))


def test_what_rises_ends_on_its_place_and_is_as_long_as_the_span_it_leads_through():
    edit = two_clips()
    (riser,) = laid(edit, do.AddSound(at=on("cue-90"), what=Made(name="riser", length=1)))
    assert riser == pytest.approx((0.5, 1.5, 1.0))
    into = {"to": "ties", "ties": [HIT], "side": "into"}
    (riser,) = laid(edit, do.AddSound(at=into, what=Made(name="riser")))
    assert riser == pytest.approx((0.0, 0.5, 0.5))
    # A bar of a song that has no beats: two beats a second.
    (swell,) = laid(edit, do.AddSound(at=on("cue-90"), what=Made(name="swell", length=2, unit="beats")))
    assert swell == pytest.approx((0.5, 1.5, 1.0))


def test_a_whoosh_rises_while_the_picture_runs_fast_and_peaks_on_the_hit():
    edit = two_clips(speed=2.0, hits=(300, 300))
    (found,) = laid(edit, do.AddSound(at={"to": "ties", "ties": [HIT]}, what=Made(name="whoosh")))
    begin, at, length = found
    assert (begin, at) == pytest.approx((0.0, 0.5))
    assert begin + 0.7 * length == pytest.approx(at)
    (slow,) = laid(two_clips(), do.AddSound(at={"to": "ties", "ties": [HIT]}, what=Made(name="whoosh")))
    assert slow[2] == 1.0, "as long as it says where nothing runs fast"


def test_nothing_that_is_made_is_longer_than_a_sound_may_be():
    """A run of an hour asks for no whoosh of an hour; it peaks on its place all the same."""
    hour = {"to": "range", "stretch": {"since": {"id": "a", "n": 0}, "until": {"id": "b", "n": 216_000}}}
    edit = do.apply(two_clips(), do.AddSound(at=hour, what=Made(name="riser")))
    edit = do.apply(edit, do.AddSound(at=on("cue-90"), what=Made(name="swell", length=60, unit="beats")))
    found = {each.sound.what.name: each for each in laid_sounds(edit)}
    assert (found["riser"].at, found["riser"].duration) == (3600, 60)
    assert found["swell"].duration <= 60


def test_sounds_are_heard_before_any_clip_is_laid():
    edit = two_clips().model_copy(update={"clips": ()})
    for name in ("whoosh", "boom"):
        edit = do.apply(edit, do.AddSound(at=on("cue-90"), what=Made(name=name)))
    assert [each.at for each in laid_sounds(edit)] == [1.5, 1.5]


def test_one_sound_on_a_selection_follows_it_and_the_strength_of_each_cue():
    edit = do.apply(two_clips(), do.ChangeCue(cue="cue-90", strength=0.5))
    edit = do.apply(edit, do.SaveSelection(selection=CueSelection(id="kicks", name="K", kinds=("kick",))))
    add = do.AddSound(
        at={"to": "cues", "selection": "kicks"}, what=Made(name="click"), by_strength=1, level=-6
    )
    edit = do.apply(edit, add)
    gains = {round(each.at * 60): each.gain for each in laid_sounds(edit)}
    assert gains[30] == pytest.approx(10 ** (-6 / 20))
    assert gains[90] == pytest.approx(gains[30] / 2)
    assert len(laid(edit, do.RemoveCues(cues=("cue-30",)))) == len(gains) - 1
    alone = do.apply(edit, do.RemoveSelection(selection="kicks"))
    assert len(alone.sounds[0].at.cues) == len(gains)
    assert laid(edit, do.ChangeSound(sound="sound-1", works=False)) == []
    assert parse_edit(edit.model_dump(mode="json")) == edit


def test_sounds_go_along_with_what_they_stand_on():
    edit = do.apply(two_clips(), do.AddSound(at=on("cue-30"), what=BELL))
    edit = do.apply(edit, do.AddSound(at={"to": "ties", "ties": [HIT]}, what=BELL))
    edit = do.apply(edit, do.AddSound(at={"to": "frame", "n": 40}, what=BELL))
    edit = do.apply(edit, do.CopySound(sound="sound-1", at=on("cue-90")))
    moved = do.apply(edit, do.ChangeCue(cue="cue-30", time=0.4))
    assert sorted(each.at for each in laid_sounds(moved)) == pytest.approx([0.4, 0.4, 40 / 60, 1.5])
    slower = do.apply(edit, do.Configure(rate="30"))
    assert slower.sounds[2].at == OnFrame(n=20)
    gone = do.apply(edit, do.RemoveCues(cues=("cue-30",)))
    assert gone.sounds[0].at == OnFrame(n=30)
    without = do.apply(edit, do.Anyway(command=do.RemoveClip(clip="going")))
    assert not any(isinstance(each.at, OnTies) for each in without.sounds)
    assert any("a sound" in row.holds for row in carry(edit, edit.song)), "another song asks for it"
    cues = tuple(cue.model_copy(update={"id": f"new-{cue.id}"}) for cue in edit.song.cues)
    song = edit.song.model_copy(update={"cues": cues})
    other = do.apply(edit, do.ChangeSong(song=song, to={cue.id: f"new-{cue.id}" for cue in edit.song.cues}))
    assert other.sounds[0].at == OnCues(cues=("new-cue-30",))
    assert do.apply(edit, do.RemoveSound(sound="sound-1")).sounds == edit.sounds[1:]
    for wish in (do.RemoveSound(sound="none"), do.ChangeSound(sound="sound-1"), do.ChangeSound(sound="none")):
        with pytest.raises(Refusal):
            do.apply(edit, wish)


@given(
    st.lists(
        st.tuples(st.integers(0, 119), st.floats(-40, 12)), min_size=1, max_size=5, unique_by=lambda p: p[0]
    ),
    st.floats(0, 3),
    st.floats(0, 3),
)
def test_the_song_is_as_loud_as_its_keys_and_fades_say(keys, fade_in, fade_out):
    edit = do.apply(two_clips(), do.FadeSong(fade_in=fade_in, fade_out=fade_out))
    for n, level in keys:
        edit = do.apply(edit, do.SetLevelKey(n=n, level=level))
    (song, *_) = voices(edit)
    assert song.source == SONG
    begin, end = song.begin, song.end
    for n, level in keys:
        t = n / 60
        far = np.clip(
            [(t - begin) / fade_in if fade_in else 1, (end - t) / fade_out if fade_out else 1], 0, 1
        )
        faded = np.prod(3 * far**2 - 2 * far**3)
        at = song.gains.along(np.array([t]))[0]
        assert at == pytest.approx(10 ** (level / 20) * faded, abs=2e-3, rel=2e-2)
    assert song.gains.along(np.array([begin + 1e-9]))[0] <= 4
    first = sorted(keys)[0]
    before = song.gains.along(np.array([first[0] / 60]))[0]
    assert np.isfinite(before)


def test_a_key_of_the_level_follows_its_cue_and_changes():
    edit = do.apply(two_clips(), do.SetLevelKey(cue="cue-30", level=-12))
    edit = do.apply(edit, do.SetLevelKey(n=90, level=0, ease="soft"))
    moved = do.apply(edit, do.ChangeCue(cue="cue-30", time=0.25))
    assert voices(moved)[0].gains.along(np.array([0.25]))[0] == pytest.approx(10 ** (-12 / 20))
    quiet = do.apply(edit, do.SetLevelKey(key="level-1", level=-20))
    assert quiet.song.levels[0].level == -20
    assert quiet.song.levels[0].at.cue == "cue-30"
    assert len(do.apply(edit, do.RemoveLevelKey(key="level-1")).song.levels) == 1
    lost = do.apply(edit, do.RemoveCues(cues=("cue-30",)))
    assert lost.song.levels[0].at.n == 30
    other = do.apply(
        edit,
        do.ChangeSong(
            song=edit.song.model_copy(update={"levels": ()}),
            to={cue.id: cue.id for cue in edit.song.cues},
        ),
    )
    assert other.song.levels == edit.song.levels, "another song is as loud"
    for wish in (do.SetLevelKey(level=3), do.SetLevelKey(key="no", level=3), do.RemoveLevelKey(key="no")):
        with pytest.raises(Refusal):
            do.apply(edit, wish)
    with pytest.raises(Refusal):
        do.apply(edit, do.SetLevelKey(cue="gone", level=3))


def test_the_clips_own_sound_has_a_level_on_the_way_too():
    edit = do.apply(two_clips(), do.SetLevel(clip="coming", level=1))
    edit = do.apply(edit, do.SetLevelKey(of="own", cue="cue-30", level=-12))
    edit = do.apply(edit, do.SetLevelKey(of="own", n=90, level=0))
    edit = do.apply(edit, do.SetLevelKey(n=10, level=-3))
    assert [key.id for key in edit.levels] == ["level-3", "level-1", "level-2"]
    song, own = voices(edit)
    np.testing.assert_allclose(
        20 * np.log10(own.gains.along(np.array([0.5, 1.0, 1.5]))), [-12, -6, 0], atol=0.01
    )
    assert song.gains.along(np.array([1.5]))[0] == pytest.approx(10 ** (-3 / 20))
    moved = do.apply(edit, do.ChangeCue(cue="cue-30", time=0.25))
    assert voices(moved)[1].gains.along(np.array([0.25]))[0] == pytest.approx(10 ** (-12 / 20))
    lost = do.apply(edit, do.RemoveCues(cues=("cue-30",)))
    assert lost.own_levels[0].at.n == 30
    assert len(do.apply(edit, do.RemoveLevelKey(key="level-2")).own_levels) == 1
    again = do.apply(edit, do.SetLevelKey(of="own", cue="cue-30", level=-9))
    assert [key.level for key in again.own_levels] == [-9, 0], "one place has one level"


def test_the_song_gives_way_to_a_sound_and_comes_back():
    duck = Duck(by=12, attack=0.1, hold=0.2, release=0.4)
    edit = do.apply(two_clips(), do.AddSound(at=on("cue-90"), what=BELL, duck=duck))
    song = voices(edit)[0]
    seen = song.gains.along(np.array([1.39, 1.45, 1.5, 1.7, 1.9, 2.11]))
    np.testing.assert_allclose(20 * np.log10(seen), [0, -6, -12, -12, -6, 0], atol=0.01)
    # Two that meet ask for no more than the one that asks for most.
    twice = do.apply(edit, do.AddSound(at=on("cue-90"), what=BELL, duck=Duck(by=6)))
    assert voices(twice)[0].gains.along(np.array([1.6]))[0] == pytest.approx(10 ** (-12 / 20))
    assert voices(do.apply(edit, do.ChangeSound(sound="sound-1", ducks=False)))[0].gains is None
    assert voices(edit)[0].told != voices(twice)[0].told


def test_a_clips_own_sound_may_begin_before_its_picture_and_all_may_be_mute():
    edit = do.apply(two_clips(), do.SetLevel(clip="coming", level=1))
    plain = voices(edit)[-1]
    ahead = voices(do.apply(edit, do.SetLevel(clip="coming", before=0.25, after=0.5)))[-1]
    assert (ahead.begin, ahead.end) == pytest.approx((plain.begin - 0.25, plain.end + 0.5))
    # Its moment is heard on its cue all the same.
    np.testing.assert_allclose(ahead.way.at(np.array([CUT / 60]))[0], 200 / 60)
    assert [each.source for each in voices(do.apply(edit, do.MuteClips(muted=True)))] == [SONG]
