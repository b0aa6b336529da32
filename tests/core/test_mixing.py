"""Pictures seen together: what is between two of them, and what passes while the shutter is open."""

from contextlib import suppress
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.document.edit import Clip, Cue, Dip, Edit, Moment, Motion, Song, Steady, Take
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from izmet.core.following.derived import changes
from izmet.core.following.workings import derive, workings_of
from izmet.core.retime.solve import solve
from izmet.core.shown.framemap import HOWS, Mix
from izmet.core.shown.pictures import TakePictures
from izmet.core.shown.plan import render_plan
from izmet.core.shown.stack import frames_shown
from izmet.core.solved import SolvedClip, solved
from tests.core.examples import MEDIA
from tests.core.wishes import wished

RATES = ("24", "30000/1001", "30", "50", "60", "120")
BLENDED, OPEN = Motion(between="blended"), Motion(between="blended", shutter=360)
FLOWING = Motion(between="fine", shutter=180)
AUTOMATIC = Motion(between="automatic")
HIT, LANDS = 400, 90
motions = st.sampled_from([BLENDED, OPEN, Motion(shutter=180), Motion(shutter=30), FLOWING, AUTOMATIC])


def one_clip(
    motion: Motion,
    speeds: tuple[float, float] = (0.4, 0.4),
    rates: tuple[str, str] = ("30", "60"),
    distinct: str | None = None,
    reversed: bool = False,
    tied: bool = True,
) -> Edit:
    """A clip that runs at one speed to its hit on frame LANDS, and at another one from there on."""
    rate = Fraction(rates[1])
    take = Take(
        id="dive", media=MEDIA, rate=rates[0], distinct=distinct or rates[0], frames=800, width=64, height=36,
        moments=(Moment(id="hit", frame=HIT),),
    )  # fmt: skip
    cue = Cue(id="drop", time=float(LANDS / rate), kind="drop")
    middle = Pin(id="b", cue="drop", moment="hit") if tied else Pin(id="b", n=LANDS, p=HIT)
    clip = Clip(
        id="clip-1", take="dive", reversed=reversed, spans=tuple(Steady(speed=each) for each in speeds),
        pins=(Pin(id="a", n=LANDS - 60), middle, Pin(id="c", n=LANDS + 60)),
    )  # fmt: skip
    song = Song(media=MEDIA, duration=60, sample_rate=48000, cues=(cue,))
    return Edit(rate=rates[1], song=song, takes=(take,), clips=(clip,), motion=motion)


def mix_of(edit: Edit) -> Mix:
    return frames_shown(edit).mixes[0]


def seen_on(mix: Mix, n: int) -> dict[int, float]:
    """What is seen on an output frame: each source frame and its weight."""
    row = n - mix.first
    both = zip(mix.pictures[row].tolist(), mix.weights[row].tolist(), strict=True)
    return {picture: weight for picture, weight in both if weight > 0}


@given(st.floats(0.05, 0.95), st.booleans())
def test_a_blended_frame_lies_between_its_pictures_as_its_position_does(speed, reversed):
    """Numeric reference: a weighted mean of linear interpolation is the position itself."""
    edit = one_clip(BLENDED, (speed, speed), ("60", "60"), reversed=reversed, tied=False)
    mix, curve = mix_of(edit), solve(edit, edit.clips[0])
    np.testing.assert_allclose((mix.pictures * mix.weights).sum(axis=1), curve.source, atol=1e-5)
    assert mix.pictures.shape[1] == 2
    assert (np.ptp(mix.pictures, axis=1) <= 1).all()


@given(
    motions,
    st.floats(0.05, 9),
    st.floats(0.05, 9),
    st.sampled_from(RATES),
    st.sampled_from(RATES),
    st.booleans(),
)
def test_a_tied_moment_is_never_mixed_and_never_seen_before_its_frame(
    motion, before, after, native, rate, back
):
    cap = 350 / 60 * float(Fraction(rate) / Fraction(native))
    edit = one_clip(motion, (min(before, cap), min(after, cap)), (native, rate), reversed=back)
    shown, way = frames_shown(edit), -1 if back else 1
    mix = shown.mixes.get(0)
    (landing,) = derive(edit).landings
    assert landing.exact
    if mix is None:
        return
    np.testing.assert_allclose(mix.weights.sum(axis=1), 1)
    assert (mix.pictures >= 0).all()
    assert (mix.pictures < 800).all()
    assert seen_on(mix, LANDS).keys() == {HIT}
    for n in range(LANDS - 60, LANDS):
        assert all((picture - HIT) * way < 0 for picture in seen_on(mix, n))
    # In the order of travel, the farthest last.
    assert (np.diff(mix.pictures, axis=1) * way >= 0).all()


@given(wished(), motions)
def test_whatever_is_done_with_a_clip_its_ties_land_mixed_as_they_land_unmixed(found, motion):
    edit, wish = found
    with suppress(Refusal):
        edit = do.apply(edit, wish)
    mixed = edit.model_copy(update={"motion": motion})
    landed, landed_mixed = (
        [(each.pin, each.landed_frame, each.hidden_by) for each in derive(each).landings]
        for each in (edit, mixed)
    )
    assert landed == landed_mixed
    mix = frames_shown(mixed).mixes.get(0)
    if mix is None:
        return
    np.testing.assert_allclose(mix.weights.sum(axis=1), 1)
    for landing in derive(mixed).landings:
        assert seen_on(mix, landing.wanted_frame).keys() == {landing.source_frame}


@given(st.floats(1.2, 20), st.floats(20, 360), st.booleans())
def test_an_open_shutter_sees_what_passes_and_smears_by_speed_times_shutter(speed, shutter, reversed):
    """From memory: an exposure of shutter / 360 of a frame smears by that part of what passes in one."""
    speed = min(speed, 350 / 60)
    edit = one_clip(Motion(shutter=shutter), (speed, speed), ("60", "60"), reversed=reversed, tied=False)
    mix, curve = frames_shown(edit).mixes.get(0), solve(edit, edit.clips[0])
    passed = speed * shutter / 360
    if mix is None:
        assert passed < 2
        return
    inner = slice(1, -1)  # beside its ends a clip has no frames to tell by
    first, last = np.where(mix.weights > 0, mix.pictures, 10**6).min(axis=1), mix.pictures.max(axis=1)
    assert (np.abs((last - first)[inner] - passed) <= 1 + passed / 9).all()
    # What is seen is centred on the frame's own instant, within a picture.
    mean = (mix.pictures * mix.weights).sum(axis=1)
    assert (np.abs(mean - curve.source)[inner] <= 1).all()


def test_a_shutter_sees_only_what_the_clip_passes_not_what_it_leaves_out():
    edit = one_clip(Motion(shutter=360), (1, 1), ("60", "60"), tied=False)
    clip = edit.clips[0]
    pins = (clip.pins[0], clip.pins[1].model_copy(update={"skip": 100}), clip.pins[2])
    leaping = edit.model_copy(update={"clips": (clip.model_copy(update={"pins": pins}),)})
    mix = mix_of(leaping)
    seen = np.where(mix.weights > 0, mix.pictures, mix.pictures[:, -1:])
    assert not ((seen > HIT + 2) & (seen < HIT + 98)).any()
    assert (np.ptp(seen, axis=1) <= 2).all()


@pytest.mark.parametrize(
    ("distinct", "rates"), [("30", ("60", "60")), ("24", ("60", "60")), ("25", ("50", "60"))]
)
def test_copies_in_a_capture_are_left_out_and_nothing_repeats(distinct, rates):
    edit = one_clip(BLENDED, (0.5, 0.5), rates, distinct=distinct, tied=False)
    held = one_clip(Motion(), (0.5, 0.5), rates, distinct=distinct, tied=False)
    count = Fraction(distinct) / Fraction(rates[0])
    pictures = {"dive": TakePictures(np.arange(800) * count.numerator // count.denominator)}
    mix = workings_of(edit, pictures).shown.mixes[0]
    rows = [
        {pictures["dive"].distinct[picture] for picture in seen_on(mix, mix.first + row)}
        for row in range(len(mix))
    ]
    assert all(len(row) == len(seen_on(mix, mix.first + at)) for at, row in enumerate(rows))
    assert derive(held, pictures).clips[0].smoothness.repeats > 20
    assert derive(edit, pictures).clips[0].smoothness.repeats == 0
    assert derive(edit, pictures).clips[0].floor == 0


@pytest.mark.parametrize("motion", [BLENDED, Motion(between="fine"), AUTOMATIC])
def test_a_stretch_of_a_take_that_holds_each_picture_twice_is_smoothed_too(motion):
    """Most of the take is as quick as the edit: its mean rate does not tell."""
    distinct = np.concatenate([np.arange(340), 340 + np.arange(60) // 2, 370 + np.arange(400)])
    edit = one_clip(motion, (1, 1), ("60", "60"), tied=False)
    take = edit.takes[0].model_copy(update={"held": 2})
    edit = edit.model_copy(update={"takes": (take,)})
    plain = edit.model_copy(update={"motion": Motion()})
    pictures = {"dive": TakePictures(distinct)}
    assert derive(plain, pictures).clips[0].smoothness.repeats == 30
    assert derive(edit, pictures).clips[0].smoothness.repeats == 0
    mix = workings_of(edit, pictures).shown.mixes[0]
    assert not (mix.how[64:118] != HOWS.index("as it is")).any()


def test_a_picture_that_the_take_holds_for_long_is_not_faded_all_the_while():
    """A take that stands still for a second: the fade comes in the usual time before the next picture."""
    distinct = np.concatenate([np.arange(380), np.full(60, 380), np.arange(381, 741)])
    pictures = {"dive": TakePictures(distinct)}
    edit = one_clip(BLENDED, (0.4, 0.4), ("60", "60"), tied=False)
    mix = workings_of(edit, pictures).shown.mixes[0]
    curve = solve(edit, edit.clips[0])
    still = (curve.source >= 380) & (curve.source < 438)
    assert still.sum() > 100
    assert all(len(seen_on(mix, mix.first + int(row))) == 1 for row in np.flatnonzero(still))


def test_a_fast_clip_is_not_blended_and_a_slow_one_not_blurred():
    assert frames_shown(one_clip(BLENDED, (3, 3), ("60", "60"), tied=False)).mixes == {}
    mix = frames_shown(one_clip(Motion(shutter=180), (0.1, 0.1), ("30", "60"), tied=False)).mixes.get(0)
    assert mix is None or np.ptp(mix.pictures, axis=1).max() <= 1
    assert frames_shown(one_clip(Motion())).mixes == {}


def test_motion_is_that_of_the_clip_else_of_the_edit():
    edit = one_clip(Motion())
    blended = do.apply(edit, do.SetMotion(between="blended"))
    assert blended.motion == BLENDED
    own = do.apply(blended, do.SetMotion(clips=("clip-1",), shutter=180))
    assert own.clips[0].motion == Motion(between="blended", shutter=180)
    assert own.motion == BLENDED
    again = do.apply(own, do.SetMotion(clips=("clip-1",), as_whole=True))
    assert again.clips[0].motion is None
    for unclear in (do.SetMotion(), do.SetMotion(as_whole=True), do.SetMotion(clips=("clip-1",))):
        with pytest.raises(Refusal, match="Say what"):
            do.apply(edit, unclear)
    with pytest.raises(Refusal, match="no clip"):
        do.apply(edit, do.SetMotion(clips=("none",), shutter=90))


def test_what_is_solved_for_programs_tells_each_mix():
    edit = one_clip(BLENDED)
    mix, (clip,) = mix_of(edit), solved(edit).clips
    assert {each.n: dict(zip(each.frames, each.weights, strict=True)) for each in clip.mixes} == {
        n: pytest.approx(seen_on(mix, n)) for n in clip_frames(clip) if len(seen_on(mix, n)) > 1
    }
    assert len(clip.mixes) > 80
    assert solved(one_clip(Motion())).clips[0].mixes == []


def clip_frames(clip: SolvedClip) -> range:
    return range(clip.first, clip.last + 1)


def test_parts_are_made_anew_where_the_mix_is_another_one():
    keys = {
        motion: [part.key for part in render_plan(edit, frames_shown(edit), "as ever")]
        for motion in (Motion(), BLENDED, OPEN)
        for edit in [one_clip(motion)]
    }
    assert len({tuple(each) for each in keys.values()}) == 3
    assert keys[BLENDED] == [part.key for part in render_plan(*_planned(one_clip(BLENDED)), "as ever")]


def _planned(edit: Edit):
    return edit, frames_shown(edit)


@given(motions, st.floats(0.1, 0.9), st.floats(0.1, 3))
def test_a_change_that_is_worked_out_from_what_was_known_comes_out_the_same(motion, strength, speed):
    edit = one_clip(motion, (speed, 0.5))
    clip = edit.clips[0]
    dip = clip.model_copy(update={"spans": (Dip(speed=speed, strength=strength), clip.spans[1])})
    bent = edit.model_copy(update={"clips": (dip,)})
    known = workings_of(edit, {})
    told = workings_of(bent, {}, known).derived
    afresh = derive(bent)
    change = changes(known.derived, told)
    assert [each.id for each in change.clips] == ["clip-1"]
    assert told.clips[0].model_dump_json() == afresh.clips[0].model_dump_json()


@given(st.floats(0.1, 0.9), st.booleans())
def test_where_pictures_flow_a_slow_frame_lies_between_two_and_a_fast_one_is_blurred(speed, reversed):
    edit = one_clip(FLOWING, speeds=(speed, 3), rates=("60", "60"), reversed=reversed)
    shown = frames_shown(edit)
    mix = shown.mixes[0].between(shown.frames)
    moved = mix.how == HOWS.index("fine")
    at = shown.frames.index(LANDS)
    assert moved[: at - 10].mean() >= 0.4 * (1 - speed)
    assert not moved[at:].any()
    assert ((mix.weights[at + 1 :] > 0).sum(axis=1) > 1).mean() > 0.5
    for row in np.flatnonzero(moved):
        first, second = mix.pictures[row, :2]
        part = mix.weights[row, 1]
        assert first + part * (second - first) == pytest.approx(shown.position[row], abs=1e-6)


@given(motions, st.floats(0.1, 4), st.booleans(), st.sampled_from(RATES), st.lists(st.integers(330, 470)))
def test_no_mix_reaches_over_a_cut_or_a_flash_inside_a_take(motion, speed, reversed, native, breaks):
    edit = one_clip(motion, (speed, speed), (native, "60"), reversed=reversed, tied=False)
    known = TakePictures(np.arange(800), np.unique(np.array([*breaks, 400], np.int64)))
    mix = frames_shown(edit, {"dive": known}).mixes.get(0)
    if mix is None:
        return
    scenes = np.searchsorted(known.breaks, mix.pictures, side="right")
    scenes[mix.weights == 0] = scenes[np.nonzero(mix.weights == 0)[0], -1]
    assert (np.ptp(scenes, axis=1) == 0).all()
    assert (np.diff(mix.pictures[:, -1]) != 0).any(), "it still goes on to the next scene"
    if motion.between != "held":
        assert derive(edit, {"dive": known}).clips[0].smoothness.repeats == 0


@given(st.sampled_from([BLENDED, FLOWING, AUTOMATIC]), st.booleans(), st.integers(385, 415))
def test_a_person_may_break_at_any_frame_of_a_picture_that_is_held(motion, reversed, frame):
    edit = one_clip(motion, (0.4, 0.4), ("60", "60"), distinct="20", reversed=reversed, tied=False)
    for at in (frame, 4000):  # one beyond the take's end breaks nothing
        edit = do.apply(edit, do.SetBreak(take="dive", frame=at))
    known = {"dive": TakePictures(np.arange(800) // 3)}
    mix = frames_shown(edit, known).mixes[0]
    later = mix.pictures // 3 >= frame // 3
    assert (later.all(axis=1) | ~later.any(axis=1)).all()
    assert later.any()
    assert not later.all()
    again = do.apply(edit, do.SetBreak(take="dive", frame=frame, again=True))
    assert again.takes[0].breaks == (4000,)


@given(motions, st.booleans())
def test_a_moment_that_is_not_guarded_is_mixed_as_any_other_and_still_lands(motion, reversed):
    edit = one_clip(motion, (0.4, 0.4), reversed=reversed)
    open_ = do.apply(edit, do.SetPin(clip="clip-1", pin="b", guarded=False))
    guarded, mixed = (frames_shown(each).mixes.get(0) for each in (edit, open_))
    (landing,) = derive(open_).landings
    assert landing.exact
    if mixed is None:
        return
    before = range(LANDS - 3, LANDS)
    assert any(HIT in seen_on(mixed, n) for n in before) == (motion.between != "held")
    assert guarded is None or not any(HIT in seen_on(guarded, n) for n in before)


@given(motions, motions)
def test_each_span_has_its_own_motion_and_is_seen_as_a_clip_that_has_it_throughout(first, second):
    edit = one_clip(Motion(), (0.4, 2.6))
    spans = do.apply(edit, do.SetMotion(clips=("clip-1",), span=0, **first.model_dump()))
    spans = do.apply(spans, do.SetMotion(clips=("clip-1",), span=1, **second.model_dump()))
    assert spans.clips[0].run == edit.clips[0].run
    mixed = frames_shown(spans).mixes.get(0)
    for motion, frames in ((first, range(LANDS - 50, LANDS)), (second, range(LANDS, LANDS + 50))):
        whole = frames_shown(edit.model_copy(update={"motion": motion})).mixes.get(0)
        for n in frames:
            seen = [None if mix is None else seen_on(mix, n) for mix in (mixed, whole)]
            known = [each for each in seen if each is not None and len(each) > 1]
            assert len(known) in (0, 2), f"one of them mixes on frame {n}"
            if known:
                assert known[0] == pytest.approx(known[1])
    back = do.apply(spans, do.SetMotion(clips=("clip-1",), span=1, as_whole=True))
    assert back.clips[0].spans[1].motion is None
    shaped = do.apply(spans, do.BeginShape(clip="clip-1", span=0, shape="dip"))
    assert shaped.clips[0].spans[0].motion == first
    with pytest.raises(Refusal, match="which one clip"):
        do.apply(edit, do.SetMotion(span=0, shutter=90))


def test_automatic_flow_is_left_out_where_it_is_worth_nothing():
    edit = one_clip(AUTOMATIC, (0.37, 0.37), ("60", "60"), tied=False, reversed=True)
    frames = np.arange(800)
    known = TakePictures(frames, still=frames < HIT, far=frames >= HIT + 10)
    mix = frames_shown(edit, {"dive": known}).mixes[0]
    together = (mix.weights > 0).sum(axis=1) > 1
    for how, of in (("still", frames < HIT), ("far", frames >= HIT + 10)):
        rows = together & of[mix.pictures.max(axis=1)]
        assert rows.sum() > 10
        assert {HOWS[number] for number in mix.how[rows]} == {how}
    assert {HOWS[number] for number in mix.how[together]} == {"still", "draft", "far"}
    wished = frames_shown(edit.model_copy(update={"motion": FLOWING}), {"dive": known}).mixes[0]
    assert not {"still", "far"} & {HOWS[number] for number in wished.how}


def test_what_is_automatic_flows_where_it_is_slow_and_is_blurred_where_it_is_fast():
    """By itself the shutter is closed at the take's own speed, and open by 180 degrees from twice that on."""
    slow, own, fast = (
        frames_shown(one_clip(AUTOMATIC, (at, at), ("60", "60"), tied=False)).mixes.get(0)
        for at in (0.37, 1, 4)
    )
    assert set(slow.how[1:-1].tolist()) <= {HOWS.index("as it is"), HOWS.index("draft")}
    assert (slow.how == HOWS.index("draft")).mean() > 0.5
    assert own is None
    assert (fast.how[1:-1] == HOWS.index("blur")).all()
    assert np.ptp(np.where(fast.weights > 0, fast.pictures, fast.pictures[:, -1:]), axis=1).max() in (1, 2)
