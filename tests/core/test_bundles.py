"""Edits as takes: a bundle lies where its clips lay, follows what it becomes, and a recap ends on its cue."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.commands.bundles import bundle_of, bundle_state, bundled, landing_moments, own_voices
from izmet.core.commands.common import with_, with_clips
from izmet.core.document.edit import Clip, Edit, Moment, Steady, Take
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from izmet.core.following.workings import derive
from izmet.core.music.lengths import Length
from izmet.core.shown.stack import frames_shown
from tests.core.examples import MEDIA, tied_edit


def untied(id: str, first: int, last: int) -> Clip:
    pins = (Pin(id="a", n=first, p=0), Pin(id="b", n=last, p=last - first))
    return Clip(id=id, take="gannet", pins=pins, spans=(Steady(),))


@pytest.fixture
def edit() -> Edit:
    """One clip tied at 1 s and 2 s (frames 60 and 120), one untied after it, and one over both."""
    laid = tied_edit([(1.0, 100), (2.0, 160)])
    return with_clips(laid, [*laid.clips, untied("clip-2", 121, 150), untied("clip-3", 140, 200)])


INNER = "7" * 32


def picture_of(edit: Edit, clips: tuple[str, ...]) -> Take:
    """Some clips of an edit as the take that they become."""
    inner = bundle_of(edit, clips, "the jump")
    shown = frames_shown(inner)
    take = Take(
        id="bundle-7", media=MEDIA, rate=edit.rate, distinct=edit.rate, frames=len(shown), width=64, height=36
    )  # fmt: skip
    return bundled(INNER, bundle_state(inner), take, landing_moments(inner, shown.first))


@pytest.mark.parametrize(
    ("clips", "frames", "order"),
    [
        (("clip-1", "clip-2"), range(60, 151), ["clip-4", "clip-3"]),
        (("clip-2",), range(121, 151), ["clip-1", "clip-4", "clip-3"]),
        (("clip-1", "clip-3"), range(60, 201), ["clip-2", "clip-4"]),
    ],
)
def test_a_bundle_shows_itself_where_its_clips_lay_and_as_far_up(edit, clips, frames, order):
    take = picture_of(edit, clips)
    after = do.apply(edit, do.UseBundle(take=take, clips=clips))
    assert [clip.id for clip in after.clips] == order
    (at,) = (index for index, clip in enumerate(after.clips) if clip.take == take.id)
    alone = frames_shown(with_clips(after, [after.clips[at]]))
    assert list(alone.frames) == list(frames)
    assert alone.picture.tolist() == list(range(len(frames)))
    assert all(landing.exact for landing in derive(after).landings)
    tied = any(id == "clip-1" for id in clips)
    assert [pin.cue for pin in after.clips[at].pins if pin.is_tie] == (["cue-0"] if tied else [])


def test_an_inner_edit_is_of_what_was_chosen_and_of_its_takes_alone(edit):
    inner = bundle_of(with_(edit, blacks=(), range=None), ("clip-2",), "the jump")
    assert (inner.title, [clip.id for clip in inner.clips], len(inner.takes)) == ("the jump", ["clip-2"], 1)
    for clips, code in (((), "nothing-chosen"), (("clip-9",), "no-such-clip")):
        with pytest.raises(Refusal) as refused:
            bundle_of(edit, clips, "none")
        assert refused.value.code == code


def test_a_bundle_that_changed_keeps_what_was_marked_in_it_and_its_ties_follow(edit):
    both = ("clip-1", "clip-2")
    laid = do.apply(edit, do.UseBundle(take=picture_of(edit, both), clips=both))
    for frame in (10, 85):
        laid = do.apply(laid, do.AddMoment(take="bundle-7", frame=frame, kind="impact"))
    inner = do.apply(edit, do.ChangeCue(cue="cue-1", time=1.5))
    again = picture_of(with_clips(inner, inner.clips[:1]), ("clip-1",))
    assert again.frames == 31
    after = do.apply(laid, do.UseBundle(take=again))
    take = after.take("bundle-7")
    assert (take.frames, take.bundle) == (31, again.bundle)
    assert [moment.frame for moment in take.moments] == [0, 10, 30], "85 is no picture of it any more"
    assert len(after.takes) == 2
    assert all(landing.exact for landing in derive(after).landings)
    assert len({moment.id for moment in take.moments}) == 3


def test_a_landing_that_is_no_more_lets_its_ties_go_where_they_are(edit):
    take = picture_of(edit, ("clip-1",))
    first, second = (moment.id for moment in take.moments)
    laid = do.apply(edit, do.UseBundle(take=take, clips=("clip-1",)))
    (clip,) = (each for each in laid.clips if each.take == take.id)
    laid = do.apply(laid, do.AddTie(clip=clip.id, moment=second, cue="cue-1"))
    tied = edit.clips[0]
    still = with_(tied.pins[1], cue=None, moment=None, n=120, p=160)
    inner = with_clips(edit, [with_(tied, pins=(tied.pins[0], still))])
    again = picture_of(inner, ("clip-1",))
    assert [moment.id for moment in again.moments] == [first]
    assert again.bundle.shows != take.bundle.shows, "the picture is the same, what lands in it is not"
    after = do.apply(laid, do.UseBundle(take=again))
    pins = [pin for pin in after.clip(clip.id).pins if pin.n is not None]
    assert [(pin.n, pin.p, pin.moment) for pin in pins] == [(120, 60, None)]
    assert [landing.moment for landing in derive(after).landings if landing.clip == clip.id] == [first]


@given(title=st.text(min_size=1, max_size=9), frame=st.integers(130, 150))
def test_a_state_is_told_by_what_is_seen_heard_and_landed_on_alone(title, frame):
    edit = with_clips(tied_edit([(1.0, 100), (2.0, 160)]), [untied("clip-2", 121, 150)])
    same = do.apply(do.apply(edit, do.Configure(title=title)), do.ChangeTake(take="gannet", name="bird"))
    assert bundle_state(same) == bundle_state(edit)
    cut = do.apply(edit, do.EndClip(clip="clip-2", length=Length(count=frame - 120)))
    assert (bundle_state(cut) == bundle_state(edit)) == (frame == 150)


def test_the_song_is_no_part_of_a_bundle_nor_what_it_rings_out_into(edit):
    edit = do.apply(edit, do.SetLevel(clip="clip-1", level=1))
    rung = do.apply(edit, do.FadeSong(ring_out=2))
    assert {voice.source for voice in own_voices(rung)} == {"gannet"}
    assert bundle_state(rung) == bundle_state(edit)


def test_long_ids_make_moments_whose_ids_are_none_the_longer(edit):
    clip = edit.clips[0]
    long = with_(clip, id="c" * 40)
    moments = landing_moments(with_clips(edit, [long]), 60)
    assert [len(moment.id) for moment in moments] == [40, 40]
    assert len({moment.id for moment in moments}) == 2


def test_a_recap_ends_just_before_its_cue_and_follows_it(edit):
    take = picture_of(edit, ("clip-1", "clip-2"))
    base = with_clips(do.apply(edit, do.UseBundle(take=take)), [])
    recap = do.apply(base, do.Recap(take="bundle-7", cue="cue-1", length=Length(count=30)))
    shown = frames_shown(recap)
    assert list(shown.frames) == list(range(90, 120))
    assert shown.picture[0] == 0
    assert 80 < shown.picture[-1] < 91
    moved = do.apply(recap, do.ChangeCue(cue="cue-1", time=2.5))
    assert list(frames_shown(moved).frames) == list(range(120, 150))
    with pytest.raises(Refusal) as refused:
        do.apply(base, do.Recap(take="bundle-7", cue="cue-0", length=Length(count=61)))
    assert (refused.value.code, refused.value.nearest) == ("no-room", 60)


def test_moments_past_the_picture_are_none(edit):
    take = with_(picture_of(edit, ("clip-1",)), frames=20)
    moments = (Moment(id="in", frame=19), Moment(id="out", frame=20))
    assert [moment.id for moment in bundled(INNER, "", take, moments).moments] == ["in"]
