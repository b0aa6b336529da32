"""What lies over a frame: overlaps of two clips, and flashes. Ties land, and all the rest stays as it was."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.commands.overlaps import longest_overlap
from izmet.core.commands.repairs import repairs
from izmet.core.document.accents import Accent, Flash, OnCues, OnFrame, Tint
from izmet.core.document.edit import Clip, Cue, Edit, Hold, Moment, Song, Steady, Take
from izmet.core.document.overlaps import Overlap
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from izmet.core.following.derived import changes
from izmet.core.following.workings import derive, workings_of
from izmet.core.shown.framemap import Place
from izmet.core.shown.light import part_for
from izmet.core.shown.plan import render_plan
from izmet.core.shown.stack import frames_shown
from tests.core.examples import MEDIA
from tests.core.felt import accent

CUT, UNDER = 60, 62


def two_clips(
    hits: tuple[int, int] = (200, 200),
    frames: tuple[int, int] = (1000, 1000),
    speed: float = 1,
    coming: Steady | Hold | None = None,
) -> Edit:
    """One clip up to frame CUT, and another one from there on.

    Of the first, the hit is on frame 30, and another moment, under the cut, on UNDER; the
    hit of the second is on the cut.
    """
    cues = tuple(Cue(id=f"cue-{n}", time=n / 60, kind="kick") for n in (30, CUT, UNDER, 90, 120))
    late = (hits[0] + round((UNDER - 30) * speed), hits[1] + 1)
    takes = tuple(
        Take(
            id=id, media=MEDIA, rate="60", distinct="60", frames=count, width=64, height=36,
            moments=(Moment(id="hit", frame=hit), Moment(id="late", frame=later)),
        )
        for id, hit, later, count in zip(("gannet", "flyby"), hits, late, frames, strict=True)
    )  # fmt: skip
    going = Clip(
        id="going", take="gannet", until=Pin(id="until", cue=f"cue-{CUT}"),
        pins=(
            Pin(id="a", n=0),
            Pin(id="b", cue="cue-30", moment="hit"),
            Pin(id="c", cue=f"cue-{UNDER}", moment="late"),
        ),
        spans=(Steady(speed=speed), Steady()),
    )  # fmt: skip
    come = Clip(
        id="coming", take="flyby", spans=(coming or Steady(speed=speed),),
        pins=(Pin(id="a", cue=f"cue-{CUT}", moment="hit"), Pin(id="b", cue="cue-120")),
    )  # fmt: skip
    song = Song(media=MEDIA, duration=10, sample_rate=48000, cues=cues)
    return Edit(rate="60", song=song, takes=takes, clips=(going, come))


def overlapped(edit: Edit, frames: int) -> Edit:
    return do.apply(edit, do.OverlapClips(clip="coming", frames=frames))


@given(
    st.integers(1, 40),
    st.floats(0.25, 4),
    st.sampled_from(["wipe", "push"]),
    st.sampled_from(["left", "right", "up", "down"]),
)
def test_a_wipe_and_a_push_leave_no_hole_and_no_cut_moves(frames, speed, kind, way):
    edit = two_clips(hits=(400, 400), speed=speed)
    plain = frames_shown(edit)
    shown = frames_shown(do.apply(edit, do.OverlapClips(clip="coming", frames=frames, kind=kind, way=way)))
    np.testing.assert_array_equal(shown.clip, plain.clip)
    for layer in shown.layers:
        for n in layer.frames:
            over = layer.placing.at(n)
            (under,) = [each.at(n) for each in shown.placings if n in each.frames] or [Place()]
            # How much of the frame each of them covers, across and down.
            parts = [
                (min(1 + each.x, each.right) - max(each.x, each.left, 0))
                * (min(1 + each.y, each.bottom) - max(each.y, each.top, 0))
                for each in (over, under)
            ]
            assert 0 < parts[0] <= 0.5
            assert parts[1] == pytest.approx(1 if kind == "wipe" else 1 - parts[0])
    assert all(landing.exact for landing in derive(edit).landings)


def test_a_tint_lies_over_the_clips_and_hides_no_hit():
    edit = two_clips()
    tinted = do.apply(
        edit, accent("tint", cue="cue-90", lead=3, hold=5, tail=2, amount=0.5, blend="multiply")
    )
    (layer,) = frames_shown(tinted).layers
    assert layer.frames == range(87, 98)
    assert layer.opacity.tolist() == pytest.approx([0.125, 0.25, 0.375, *[0.5] * 6, 1 / 3, 1 / 6])
    covered = do.apply(edit, accent("tint", n=CUT))
    assert [each.model_dump() for each in derive(edit).landings] == [
        each.model_dump() for each in derive(covered).landings
    ]
    slower = do.apply(tinted, do.Configure(rate="30"))
    assert frames_shown(slower).layers[0].opacity.tolist() == pytest.approx(
        [1 / 6, 1 / 3, *[0.5] * 4, 0.25]
    ), "a lead of 2, a hold of 3, a tail of 1"
    with pytest.raises(Refusal, match="Say what"):
        do.apply(tinted, do.ChangeAccent(accent=tinted.accents[0].id))
    plain, coloured = (
        {part.key for part in render_plan(each, frames_shown(each), "as ever")} for each in (edit, tinted)
    )
    assert plain != coloured


def test_a_hit_is_hidden_only_while_a_plain_tint_covers_all():
    edit = do.apply(two_clips(), accent("tint", n=CUT, blend="normal", amount=0.5))
    for amount, hidden in ((0.5, None), (1, "tint"), (0.9, None)):
        edit = do.apply(
            edit, do.ChangeAccent(accent=edit.accents[0].id, what=Tint(blend="normal", amount=amount))
        )
        (coming,) = [each for each in derive(edit).landings if each.clip == "coming"]
        assert coming.hidden_by == hidden


@given(st.integers(2, 40))
def test_what_is_hidden_by_the_black_of_a_dip_is_told(frames):
    edit = two_clips()
    late = do.apply(edit, do.ChangeCue(cue="cue-30", time=(CUT - 1) / 60))
    dipped = do.apply(late, do.OverlapClips(clip="coming", frames=frames, kind="dip"))
    hidden = {
        landing.pin: landing.hidden_by for landing in derive(dipped).landings if landing.clip == "going"
    }
    assert hidden["b"] == "black"
    (coming,) = [landing for landing in derive(dipped).landings if landing.clip == "coming"]
    assert coming.exact
    assert coming.hidden_by is None


@given(st.integers(1, 60), st.floats(0.25, 4))
def test_an_overlap_lies_half_on_each_side_and_adds_up_to_one_picture(frames, speed):
    edit = two_clips(hits=(400, 400), speed=speed)
    plain, shown = frames_shown(edit), frames_shown(overlapped(edit, frames))
    assert not plain.layers
    np.testing.assert_array_equal(shown.clip, plain.clip)
    np.testing.assert_array_equal(shown.picture, plain.picture)
    parts = np.zeros(len(shown))
    for layer in shown.layers:
        mine, picture = shown.seen_of(layer.clip, layer.frames)
        assert mine.all()
        np.testing.assert_array_equal(picture, layer.picture)
        # What is over the frame has the smaller part of it.
        assert (layer.opacity > 0).all()
        assert (layer.opacity <= 0.5).all()
        coming = layer.opacity if layer.clip == 1 else 1 - layer.opacity
        parts[layer.first : layer.first + len(layer)] = coming
    covered = np.flatnonzero(parts)
    assert covered.tolist() == list(range(CUT - frames // 2, CUT + frames - frames // 2))
    np.testing.assert_allclose(parts[covered], np.arange(1, frames + 1) / (frames + 1))


def test_pictures_in_an_overlap_go_on_as_they_ran():
    edit = two_clips(speed=0.5)
    layers = frames_shown(overlapped(edit, 8)).layers
    coming, going = layers
    assert coming.picture.tolist() == [198, 198, 199, 199]
    # The clip that goes is at its hit, 200, on frame 30, and at half speed from there.
    assert going.picture.tolist() == [215, 215, 216, 216]


@pytest.mark.parametrize(
    ("hits", "frames", "most"),
    [
        ((200, 3), (1000, 1000), 7),  # three pictures before the cut
        ((200, 200), (234, 1000), 8),  # four after it
        ((200, 200), (1000, 1000), 121),  # all that the clip before is seen, and as much after it
    ],
)
def test_an_overlap_has_as_much_room_as_the_takes_and_the_cuts_beside_it_leave(hits, frames, most):
    edit = two_clips(hits, frames)
    assert longest_overlap(edit, "coming") == most
    overlapped(edit, most)
    with pytest.raises(Refusal) as refused:
        overlapped(edit, most + 1)
    assert refused.value.nearest == most
    offer = repairs(edit, do.OverlapClips(clip="coming", frames=most + 1), refused.value)
    assert [repair.commands for repair in offer] == [[do.OverlapClips(clip="coming", frames=most)]]


def test_a_first_clip_overlaps_nothing():
    with pytest.raises(Refusal) as refused:
        do.apply(two_clips(), do.OverlapClips(clip="going", frames=4))
    assert refused.value.code == "no-cut"


def test_a_hit_on_the_cut_still_lands_there_and_one_under_the_cut_is_seen_through_it():
    edit = two_clips()
    # What lies after its clip's cut is no landing; here the clip goes on beneath the other.
    edit = edit.model_copy(
        update={"clips": (edit.clips[0].model_copy(update={"until": None}), edit.clips[1])}
    )
    plain = {(each.clip, each.moment): each for each in derive(edit).landings}
    assert plain[("coming", "hit")].exact
    assert plain[("going", "late")].hidden_by == "coming"
    seen = {(each.clip, each.moment): each for each in derive(overlapped(edit, 8)).landings}
    assert seen[("coming", "hit")].exact
    assert seen[("going", "late")].exact
    assert seen[("going", "late")].hidden_by is None


def test_a_clip_that_stands_at_its_hit_is_told_to_show_it_early():
    edit = two_clips(coming=Hold())
    assert derive(edit).landings[-1].exact
    landing = derive(overlapped(edit, 8)).landings[-1]
    assert landing.landed_frame == CUT - 4
    assert not landing.exact


def test_a_cut_without_a_clip_before_it_waits_for_one():
    edit = overlapped(two_clips(), 8)
    alone = do.apply(edit, do.Anyway(command=do.RemoveClip(clip="going")))
    assert not frames_shown(alone).layers
    assert alone.clips[0].overlap == Overlap(frames=8)


@given(st.integers(0, 9), st.integers(0, 20), st.floats(1, 100))
def test_a_flash_is_fullest_on_its_cue_and_goes_along_with_it(lead, tail, light):
    edit = do.apply(two_clips(), accent("flash", cue="cue-30", light=light, lead=lead, tail=tail))
    (look,) = frames_shown(edit).looks
    column = look.values["light"]
    assert look.frames == range(30 - lead, 30 + tail + 1)
    assert column.max() == column[lead] == pytest.approx(part_for("#ffffff", light))
    assert (np.diff(column[: lead + 1]) > 0).all()
    assert (np.diff(column[lead:]) < 0).all()
    assert column.min() > 0
    moved = do.apply(edit, do.ChangeCue(cue="cue-30", time=40 / 60))
    assert frames_shown(moved).looks[0].first == 40 - lead
    gone = do.apply(moved, do.RemoveCues(cues=("cue-30",)))
    assert frames_shown(gone).looks[0].first == 40 - lead


def test_accents_are_changed_and_removed_by_name():
    edit = do.apply(two_clips(), accent("flash", n=30))
    changed = do.apply(edit, do.ChangeAccent(accent="accent-1", at=OnCues(cues=("cue-90",)), tail=3))
    assert changed.accents == (Accent(id="accent-1", at=OnCues(cues=("cue-90",)), what=Flash(), tail=3),)
    assert do.apply(changed, do.RemoveAccent(accent="accent-1")).accents == ()
    for command in (
        do.ChangeAccent(accent="accent-9", tail=3),
        do.RemoveAccent(accent="accent-9"),
        do.ChangeAccent(accent="accent-1"),
        accent("flash", cue="cue-none"),
    ):
        with pytest.raises(Refusal):
            do.apply(edit, command)


def test_at_another_rate_an_overlap_and_a_flash_last_as_long():
    edit = do.apply(overlapped(two_clips(), 8), accent("flash", n=30, lead=2, tail=10))
    half = do.apply(edit, do.Configure(rate=Fraction(30)))
    assert half.clips[1].overlap == Overlap(frames=4)
    assert (half.accents[0].lead, half.accents[0].tail, half.accents[0].at) == (1, 5, OnFrame(n=15))


def test_parts_are_cut_where_the_stack_changes_and_only_they_change_with_it():
    edit = do.apply(overlapped(two_clips(), 8), accent("flash", cue="cue-90", lead=1, tail=4))
    plan = render_plan(edit, frames_shown(edit), "any")
    edges = [part.frames.start for part in plan]
    assert edges == [0, CUT - 4, CUT, CUT + 4, 89, 95]
    weaker = do.apply(edit, do.ChangeAccent(accent="accent-1", what=Flash(light=30)))
    other = [part.key for part in render_plan(weaker, frames_shown(weaker), "any")]
    same = [a.key == b for a, b in zip(plan, other, strict=True)]
    assert same == [True, True, True, True, False, True]
    longer = overlapped(edit, 6)
    kept = {part.key for part in plan} & {part.key for part in render_plan(longer, frames_shown(longer), "x")}
    assert not kept, "another way of writing is another part"


@given(st.lists(st.sampled_from(["longer", "cut", "flash", "speed"]), min_size=1, max_size=5))
def test_what_follows_is_the_same_step_by_step_as_all_at_once(steps):
    edit = overlapped(two_clips(), 8)
    known = workings_of(edit, {})
    for count, step in enumerate(steps):
        before = known
        if step == "longer":
            coming = edit.clips[1].model_copy(update={"overlap": Overlap(frames=3 + count)})
            edit = edit.model_copy(update={"clips": (edit.clips[0], coming)})
        elif step == "cut":
            edit = do.attempt(
                edit, do.ChangeTie(clip="coming", pin="a", cue="cue-90" if count % 2 else "cue-60")
            )
        elif step == "flash":
            edit = do.attempt(edit, accent("flash", n=20 + count))
        else:
            edit = do.attempt(edit, do.SetSpan(clip="coming", span=0, speed=1 + count / 4))
        known = workings_of(edit, {}, before)
        fresh = derive(edit)
        assert known.derived.model_dump_json() == fresh.model_dump_json()
        told = changes(before.derived, known.derived).map
        if told is not None:
            for name in ("placings", "layers", "looks"):  # what did not change is not told
                new, old = getattr(told, name), getattr(before.derived.map, name)
                now = [each.model_dump_json() for each in (old if new is None else new)]
                assert now == [each.model_dump_json() for each in getattr(fresh.map, name)]
