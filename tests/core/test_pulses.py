"""Pulses: the picture moves at each cue, and ties land whatever the pulses do."""

from contextlib import suppress

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from izmet.core import commands as do
from izmet.core.arrange.songs import carry
from izmet.core.commands.passes import PulseChange
from izmet.core.commands.repairs import Repair, repairs
from izmet.core.document.edit import Cue, CueSelection, Edit, Hold, PulseValues, Steady, ToothAmount
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from izmet.core.following.workings import derive
from izmet.core.retime.easings import CONTROLS, eased
from izmet.core.retime.solve import Curve, solve
from izmet.core.solved import solved
from tests.core.examples import tied_edit

BEATS = (1.5, 2.0, 2.5, 3.0)
AT = [round(60 * time) for time in BEATS]
FIRST, LAST, BEGIN, END = 60, 240, 100, 300

easings = st.sampled_from(sorted(CONTROLS))
values = st.builds(
    PulseValues,
    pattern=st.sampled_from(["step", "push", "to-and-fro", "wander", "again", "dash"]),
    amounts=st.lists(st.floats(-40, 40), min_size=1, max_size=3).map(tuple),
    unit=st.just("frames"),
    attack=st.integers(0, 40),
    release=st.integers(0, 40),
    rise=easings,
    fall=easings,
    by_strength=st.floats(0, 1),
    growth=st.floats(0.5, 2),
    early=st.integers(-20, 20),
    every=st.integers(1, 3),
    seed=st.integers(0, 99),
    at_end=st.sampled_from(["stop", "turn"]),
)


def beaten(tied: bool = True, reverse: bool = False, frozen: bool = False, at: int = BEGIN) -> Edit:
    """One clip from frame FIRST to LAST with a beat on each of AT, tied at both ends or at its first."""
    edit = tied_edit([(1.0, END if reverse else at), (4.0, at if reverse else END)], [Steady()])
    clip = do.with_(edit.clips[0], reversed=reverse)
    if not tied or frozen:
        shape = Hold() if frozen else Steady(speed=0.5)
        clip = do.with_(clip, pins=(clip.pins[0], Pin(id="end", n=LAST)), spans=(shape,))
    edit = edit.model_copy(update={"clips": (clip,)})
    for time in BEATS:
        edit = do.apply(edit, do.AddCue(time=time, kind="snare", strength=0.5 if time == 2.0 else 1.0))
    return edit


def by_time(cue: Cue) -> float:
    return cue.time


def snares(edit: Edit) -> tuple[str, ...]:
    return tuple(cue.id for cue in edit.song.cues if cue.kind == "snare")


def pulsed(edit: Edit, said: PulseValues | None = None, **some) -> Edit:
    return do.apply(edit, do.AddPulse(clip="clip-1", cues=snares(edit), values=said or PulseValues(**some)))


def curve_of(edit: Edit) -> Curve:
    return solve(edit, edit.clips[0])


def moved_by(edit: Edit, **some) -> np.ndarray:
    """By how much a pulse moves each frame of a clip."""
    return curve_of(pulsed(edit, **some)).source - curve_of(edit).source


@given(easings, st.floats(0, 1))
def test_easings_are_those_of_css(name, x):
    """CSS Easing Functions Level 1, 2.2: y where the Bézier through (x1, y1), (x2, y2) has this x."""
    x1, y1, x2, y2 = CONTROLS[name]

    def bezier(t, a, b):
        return 3 * (1 - t) ** 2 * t * a + 3 * (1 - t) * t**2 * b + t**3

    t = brentq(lambda t: bezier(t, x1, x2) - x, 0, 1, xtol=1e-14)
    assert eased(name, np.array([x]))[0][0] == pytest.approx(bezier(t, y1, y2), abs=2e-6)


def test_named_easings_pass_where_css_says():
    """Section 2.2.1 gives the control points of the keywords."""
    assert CONTROLS["ease"] == (0.25, 0.1, 0.25, 1)
    assert CONTROLS["ease-in"] == (0.42, 0, 1, 1)
    assert CONTROLS["ease-out"] == (0, 0, 0.58, 1)
    assert CONTROLS["ease-in-out"] == (0.42, 0, 0.58, 1)


def course(n, begin, length, name):
    x = np.where(n >= begin, 1.0, 0.0) if not length else np.clip((n - begin) / length, 0, 1)
    return eased(name, x)[0]


@given(st.floats(-20, 20), st.integers(0, 29), st.integers(0, 30), easings, easings, st.integers(-10, 10))
def test_steps_stay_pushes_come_back_and_dashes_wait(amount, attack, release, rise, fall, early):
    """Without a second tie nothing is taken back: the formula itself is seen."""
    edit, n = beaten(tied=False), np.arange(FIRST, LAST + 1)
    said = {
        "amounts": (amount,),
        "attack": attack,
        "release": release,
        "rise": rise,
        "fall": fall,
        "early": early,
    }
    begins = [at - early for at in AT]
    step = sum(amount * course(n, begin, attack, rise) for begin in begins)
    np.testing.assert_allclose(moved_by(edit, pattern="step", **said), step, atol=1e-6)
    back = sum(amount * course(n, begin + attack, release, fall) for begin in begins)
    np.testing.assert_allclose(moved_by(edit, pattern="push", **said), step - back, atol=1e-6)
    if amount > 0.5 * (30 - attack):
        with pytest.raises(Refusal, match="run back"):
            moved_by(edit, pattern="dash", **said)
        return
    ends = [*begins[1:], LAST]
    wait = sum(
        amount * course(n, begin + attack, max(0, end - begin - attack), "straight")
        for begin, end in zip(begins, ends, strict=True)
    )
    dash = moved_by(edit, pattern="dash", **said)
    np.testing.assert_allclose(dash, step - wait, atol=1e-6)


@given(values, st.booleans(), st.booleans())
def test_ties_land_and_nothing_is_shown_outside_the_take_or_early_whatever_pulses_do(said, reverse, tied):
    edit, moved = beaten(tied, reverse and tied), None
    with suppress(Refusal):
        moved = pulsed(edit, said)
    if moved is None:
        return
    curve, plain = curve_of(moved), curve_of(edit)
    assert all(landing.exact for landing in derive(moved).landings)
    assert 0 <= curve.shown.min() <= curve.shown.max() < moved.takes[0].frames
    anchors = [0, LAST - FIRST] if tied else [0]
    np.testing.assert_allclose(curve.source[anchors], plain.source[anchors], atol=1e-9)
    if tied:
        before = curve.shown[:-1]
        assert (before != curve.shown[-1]).all(), "the hit is not seen before its frame"
    if said.pattern in ("step", "to-and-fro", "dash") and min(said.amounts) >= 0:
        way = -1 if reverse and tied else 1
        assert (way * np.diff(curve.source) >= -1e-6).all() or said.at_end == "turn"


@given(st.floats(-900, 900), st.booleans())
def test_what_turns_at_the_ends_of_its_take_comes_to_no_hit_before_its_frame(amount, reverse):
    edit = beaten(reverse=reverse)
    curve = curve_of(pulsed(edit, pattern="push", amounts=(amount,), attack=3, at_end="turn"))
    way, hit = (-1 if reverse else 1), curve.shown[-1]
    assert (way * curve.shown[:-1] < way * hit).all()


@given(values, values)
def test_what_pulses_add_is_the_sum_of_what_each_adds(one, other):
    edit = beaten(tied=False, at=400)
    still = [
        each.model_copy(update={"pattern": "push", "at_end": "stop", "growth": 1.0}) for each in (one, other)
    ]
    alone = [curve_of(pulsed(edit, each)) for each in still]
    both = curve_of(pulsed(pulsed(edit, still[0]), still[1]))
    plain = curve_of(edit)
    np.testing.assert_allclose(
        both.source - plain.source, sum(each.source - plain.source for each in alone), atol=1e-6
    )
    np.testing.assert_allclose(
        both.pulses.parted(both.frames.astype(float))[1].sum(axis=0), both.source - plain.source, atol=1e-6
    )


@given(values)
def test_taken_away_switched_off_or_silent_a_pulse_leaves_the_clip_as_it_was(said):
    edit = beaten(tied=False, at=400)
    plain = solved(edit)
    try:
        moved = pulsed(edit, said)
    except Refusal:
        return
    again = pulsed(edit, said)
    assert solved(again) == solved(moved), "the same seed is the same picture"
    (pulse,) = moved.clips[0].passes
    removed = do.apply(moved, do.RemovePass(clip="clip-1", id=pulse.id))
    assert solved(removed) == plain
    off = do.apply(moved, do.ChangePass(clip="clip-1", id=pulse.id, works=False))
    silent = do.apply(
        moved, do.ChangePass(clip="clip-1", id=pulse.id, pulse=PulseChange(silent=snares(edit)))
    )
    for each in (off, silent):
        np.testing.assert_allclose(curve_of(each).source, curve_of(edit).source, atol=1e-9)


def test_a_freeze_moves_on_with_each_beat():
    """Common practice, no source: a fifth of a second forward a beat, with a soft start of five frames."""
    edit = beaten(frozen=True)
    rate = float(edit.takes[0].rate)
    moved = pulsed(edit, pattern="step", amounts=(0.2,), unit="seconds", attack=5, rise="soft")
    source = curve_of(moved).source - BEGIN
    for index, at in enumerate(AT):
        assert source[at - FIRST] == pytest.approx(0.2 * rate * index)
        assert source[at + 5 - FIRST] == pytest.approx(0.2 * rate * (index + 1))
    assert source[AT[0] + 1 - FIRST] == pytest.approx(0.2 * rate * (3 * 0.04 - 2 * 0.008))
    pin = derive(moved).clips[0].pins[-1]
    assert pin.p == pytest.approx(BEGIN + 0.8 * rate), "the open end moves on too"
    with pytest.raises(Refusal, match="fits") as refused:
        pulsed(edit, amounts=(1000.0,))
    assert refused.value.code == "pulse-outside-take"
    assert pulsed(edit, amounts=(refused.value.nearest,)).clips[0].passes


@given(values.filter(lambda said: said.pattern != "again"), st.booleans())
def test_room_is_how_much_larger_the_amounts_may_be_and_no_more(said, tied):
    edit = beaten(tied)
    said = said.model_copy(update={"at_end": "stop"})
    try:
        moved = pulsed(edit, said)
    except Refusal:
        return
    room = derive(moved).clips[0].pulses
    curve = curve_of(moved)
    (each,) = room.pulses
    if not tied:
        assert room.before == pytest.approx(curve.source.min(), abs=1e-6)
        assert room.after == pytest.approx(moved.takes[0].frames - 1 - curve.source.max(), abs=1e-6)
    if each.times >= 1000:
        assert each.runs_out is None
        return

    def times(factor):
        larger = tuple(amount * each.times * factor for amount in said.amounts)
        return pulsed(edit, said.model_copy(update={"amounts": larger}))

    times(0.999)
    if not tied:  # Before a tie a pulse that goes too far is stopped short of it.
        with pytest.raises(Refusal):
            times(1.01)
        assert each.runs_out in snares(edit)


def test_each_cue_starts_the_same_stretch_again():
    edit = pulsed(beaten(tied=False), pattern="again")
    source = curve_of(edit).source
    first = source[AT[0] - FIRST : AT[1] - FIRST]
    for at in AT[1:]:
        np.testing.assert_allclose(source[at - FIRST : at - FIRST + len(first)], first, atol=1e-9)


def test_to_and_fro_goes_by_each_amount_in_turn_and_turns_at_the_end_of_the_take():
    """Common practice, no source: one second forward, one second back."""
    edit = beaten(frozen=True)
    rate, most = float(edit.takes[0].rate), edit.takes[0].frames - 1
    there = {"pattern": "to-and-fro", "unit": "seconds", "attack": 0}
    source = curve_of(pulsed(edit, amounts=(1, -1), **there)).source
    assert [source[at - FIRST] for at in AT] == pytest.approx([BEGIN + rate, BEGIN, BEGIN + rate, BEGIN])
    far = (most - BEGIN + 30) / rate
    turned = curve_of(pulsed(edit, amounts=(far, -far), at_end="turn", **there)).source
    assert [turned[at - FIRST] for at in AT] == pytest.approx([most - 30, BEGIN] * 2)


def test_a_pulse_works_on_the_cues_it_means_by_as_much_as_it_says():
    edit = beaten(frozen=True)

    def steps(**some):
        source = curve_of(pulsed(edit, amounts=(10,), attack=0, **some)).source
        return [round(float(source[at - FIRST] - source[at - 1 - FIRST]), 6) for at in AT]

    ids = snares(edit)
    assert steps() == [10, 10, 10, 10]
    assert steps(growth=2) == [10, 20, 40, 80]
    assert steps(by_strength=1) == [10, 5, 10, 10]
    assert steps(least=0.8) == [10, 0, 10, 10]
    assert steps(every=2) == [10, 0, 10, 0]
    assert steps(first=3) == [0, 0, 10, 10]
    assert steps(last=2) == [10, 10, 0, 0]
    assert steps(silent=ids[1:2]) == [10, 0, 10, 10]
    assert steps(own=(ToothAmount(cue=ids[2], amount=3),)) == [10, 10, 3, 10]
    left = edit.takes[0].frames - 1 - BEGIN
    shared = curve_of(pulsed(edit, amounts=(1,), unit="share", attack=0)).source
    assert shared[-1] == pytest.approx(BEGIN + left)
    assert shared[AT[1] - FIRST] == pytest.approx(BEGIN + left / 2)


def test_a_pulse_follows_a_kept_selection_and_another_draw_is_another_picture():
    edit = beaten(frozen=True)
    kept = CueSelection(id="beats", name="Beats", kinds=("snare",))
    edit = edit.model_copy(update={"song": edit.song.model_copy(update={"selections": (kept,)})})
    wander = PulseValues(pattern="wander", amounts=(20,), seed=1)
    moved = do.apply(edit, do.AddPulse(clip="clip-1", selection="beats", values=wander))
    (pulse,) = moved.clips[0].passes
    other = do.apply(moved, do.ChangePass(clip="clip-1", id=pulse.id, pulse=PulseChange(seed=2)))
    assert other.clips[0].passes[0].amounts == (20,), "what is not said stays"
    assert abs(curve_of(other).source - curve_of(moved).source).max() > 1
    more = do.apply(moved, do.AddCue(time=3.5, kind="snare"))
    assert [tooth.n for tooth in derive(more).clips[0].pulses.pulses[0].teeth] == [*AT, 210]


def on_snares(edit, **rule):
    """The edit with a wander on a kept selection of its snares, and what that says."""
    kept = CueSelection(id="beats", name="Beats", kinds=("snare",), **rule)
    beats = [Cue(id=f"b-{n}", time=n / 2, kind="beat") for n in range(9)]
    cues = sorted([*beats, *edit.song.cues], key=by_time)
    song = edit.song.model_copy(update={"selections": (kept,), "cues": tuple(cues)})
    edit = edit.model_copy(update={"song": song})
    wander = PulseValues(pattern="wander", amounts=(9,), seed=1)
    return do.apply(edit, do.AddPulse(clip="clip-1", selection="beats", values=wander))


def slower(song, **changes):
    """The same song a tenth slower, with a snare more that nothing hung on."""
    cues = [cue.model_copy(update={"id": f"new-{cue.id}", "time": 1.1 * cue.time}) for cue in song.cues]
    more = Cue(id="more", time=1.1 * 3.7, kind="snare")
    return song.model_copy(update={"cues": (*cues, more), "selections": (), **changes})


def teeth(edit):
    (told,) = derive(edit).clips[0].pulses.pulses
    return [tooth.n for tooth in told.teeth]


def test_another_song_takes_pulses_over_by_the_rule_of_their_selection():
    edit = beaten()
    moved = on_snares(edit, begin=BEATS[0], end=3.8)
    ids = snares(edit)
    quiet = do.ChangePass(clip="clip-1", id="pass-1", pulse=PulseChange(silent=ids[1:2]))
    moved = do.apply(moved, quiet)
    song = slower(moved.song)
    rows = carry(moved, song)
    assert ids[1] in {row.cue for row in rows}, "what was done to one tooth hangs on its cue"
    assert not {ids[0], ids[2]} & {row.cue for row in rows}, "what the rule finds does not"
    taken = do.apply(moved, do.ChangeSong(song=song, to={row.cue: row.to for row in rows}))
    (rule,) = taken.song.selections
    assert (rule.id, rule.kinds) == ("beats", ("snare",))
    assert (rule.begin, rule.end) == pytest.approx((1.65, 4.18))
    assert taken.clips[0].passes[0].selection == "beats"
    assert taken.clips[0].passes[0].silent == (f"new-{ids[1]}",)
    assert teeth(taken) == [round(60 * 1.1 * time) for time in (*BEATS, 3.7)], "one more snare is one more"
    assert [each.landed_frame for each in derive(taken).clips[0].landings] == [66, 264]
    to = {row.cue: row.to for row in carry(taken, moved.song)}
    back = do.apply(taken, do.ChangeSong(song=moved.song, to=to))
    assert back.clips[0].passes == moved.clips[0].passes


def test_where_their_rule_finds_nothing_another_song_takes_pulses_over_cue_by_cue():
    edit = beaten()
    moved = on_snares(edit)
    claps = [
        cue.model_copy(update={"kind": "hand"} if cue.kind == "snare" else {})
        for cue in slower(moved.song).cues
    ]
    song = slower(moved.song, cues=tuple(claps))
    to = {cue.id: f"new-{cue.id}" for cue in moved.song.cues}
    taken = do.apply(moved, do.ChangeSong(song=song, to=to))
    assert taken.song.selections == ()
    assert taken.clips[0].passes[0].cues == tuple(f"new-{id}" for id in snares(edit))
    assert teeth(taken) == [round(60 * 1.1 * time) for time in BEATS]


def test_pulses_on_no_cue_of_the_clip_are_refused():
    edit = do.apply(beaten(), do.AddCue(time=9.0, kind="drop"))
    drop = next(cue.id for cue in edit.song.cues if cue.kind == "drop" and cue.time == 9.0)
    with pytest.raises(Refusal, match="lies on the clip"):
        do.apply(edit, do.AddPulse(clip="clip-1", cues=(drop,)))


@pytest.mark.parametrize(("pattern", "amount", "seed"), [("step", 60.0, 0), ("wander", 300.0, 1)])
def test_a_pulse_that_does_not_fit_comes_with_what_would_cure_it(pattern, amount, seed):
    edit = beaten(frozen=True, at=900)
    values = PulseValues(pattern=pattern, amounts=(amount,), seed=seed)
    command = do.AddPulse(clip="clip-1", cues=snares(edit), values=values)
    with pytest.raises(Refusal) as refused:
        do.apply(edit, command)
    offered = {repair.label: repair.commands for repair in repairs(edit, command, refused.value)}
    cured = [do.apply(edit, do.Batch(commands=commands)) for commands in offered.values()]
    assert all(solve(each, each.clips[0]).shown.max() < 1000 for each in cured)
    said = ["As far as it goes", "Reverse at", "Only on the first" if pattern == "step" else "Another draw"]
    assert all(any(label.startswith(start) for label in offered) for start in said), list(offered)
    for label, each in zip(offered, cured, strict=True):
        (pulse,) = each.clips[0].passes
        if label.startswith("Another draw"):
            assert (pulse.amounts, pulse.at_end) == ((amount,), "stop")
            assert pulse.seed != seed


def test_what_cures_a_change_changes_that_alone_when_it_has_been_written_out_and_read():
    edit = pulsed(beaten(frozen=True), amounts=(0.2,), unit="seconds", attack=9)
    command = do.ChangePass(clip="clip-1", id="pass-1", pulse=PulseChange(amounts=(60.0,)))
    with pytest.raises(Refusal) as refused:
        do.apply(edit, command)
    first = repairs(edit, command, refused.value)[0].model_dump_json()
    (sent,) = Repair.model_validate_json(first).commands
    (pulse,) = do.apply(edit, sent).clips[0].passes
    assert (pulse.unit, pulse.attack, pulse.amounts) == ("seconds", 9, (refused.value.nearest,))


def test_a_cure_is_of_the_pulse_that_is_changed_not_of_the_one_that_adds_most():
    edit = pulsed(pulsed(beaten(frozen=True), amounts=(190.0,)), amounts=(5.0,))
    command = do.ChangePass(clip="clip-1", id="pass-2", pulse=PulseChange(amounts=(60.0,)))
    with pytest.raises(Refusal) as refused:
        do.apply(edit, command)
    (cure,) = repairs(edit, command, refused.value)[0].commands
    after = do.apply(edit, cure)
    assert solve(after, after.clips[0]).source[-1] == pytest.approx(999)
    assert after.clips[0].passes[0] == edit.clips[0].passes[0]


def test_a_free_clip_may_start_earlier_by_as_much_as_is_missing():
    edit = beaten(frozen=True, at=700)
    loose = do.with_(edit.clips[0], pins=(Pin(id="a", n=FIRST, p=700), Pin(id="end", n=LAST)))
    edit = edit.model_copy(update={"clips": (loose,)})
    command = do.AddPulse(clip="clip-1", cues=snares(edit), values=PulseValues(amounts=(100.0,)))
    with pytest.raises(Refusal) as refused:
        do.apply(edit, command)
    offered = {repair.label: repair.commands for repair in repairs(edit, command, refused.value)}
    after = do.apply(edit, do.Batch(commands=offered["Start 101 frames earlier in the take"]))
    assert solve(after, after.clips[0]).source[-1] == pytest.approx(999)


def test_a_pulse_is_copied_to_other_clips_on_other_cues():
    edit = pulsed(beaten(frozen=True), amounts=(7.0,))
    twin = do.with_(edit.clips[0], id="clip-2", passes=())
    edit = edit.model_copy(update={"clips": (edit.clips[0], twin)})
    (pulse,) = edit.clips[0].passes
    command = do.CopyPass(clip="clip-1", id=pulse.id, clips=("clip-2",), cues=snares(edit)[1:])
    copied = do.apply(edit, command).clips[1].passes[0]
    assert (copied.amounts, copied.cues) == ((7.0,), snares(edit)[1:])
    later = do.apply(edit, do.AddCue(time=3.5, kind="snare"))
    same = do.CopyPass(clip="clip-1", id=pulse.id, clips=("clip-2",))
    assert do.apply(later, same).clips[1].passes[0].cues == snares(later), "all of their kind that lie there"


def test_a_recipe_carries_pulses_to_clips_with_such_cues_once():
    edit = pulsed(beaten(tied=False), pattern="push", amounts=(4.0,), silent=())
    hit = edit.clips[0].pins[0].id
    edit = do.apply(edit, do.MakeRecipe(clip="clip-1", pin=hit, name="Knocked"))
    (recipe,) = edit.recipes
    assert [each.kinds for each in recipe.pulses] == [("snare",)]
    bare = do.apply(edit, do.RemovePass(clip="clip-1", id="pass-1"))
    for _ in range(2):
        bare = do.apply(bare, do.ApplyRecipe(recipe=recipe.id, clips=("clip-1",), overwrite=True))
        (pulse,) = bare.clips[0].passes
        assert (pulse.pattern, pulse.amounts, pulse.cues) == ("push", (4.0,), snares(edit))
    again, before = (curve_of(each).source for each in (bare, edit))
    np.testing.assert_allclose(again, before[: len(again)], atol=1e-6)


def test_passes_are_put_in_another_order_and_told_to_programs():
    edit = pulsed(pulsed(beaten(tied=False), amounts=(1,)), amounts=(2,))
    turned = do.apply(edit, do.ChangePass(clip="clip-1", id="pass-2", place=0))
    assert [each.id for each in turned.clips[0].passes] == ["pass-2", "pass-1"]
    (clip,) = solved(turned).clips
    assert [each.id for each in clip.pulses.pulses] == ["pass-2", "pass-1"]
    assert [tooth.amount for tooth in clip.pulses.pulses[0].teeth] == [2] * 4
    assert clip.frames == solved(edit).clips[0].frames


extremes = st.builds(
    PulseValues,
    pattern=st.sampled_from(["step", "push", "to-and-fro", "wander", "again", "dash"]),
    amounts=st.lists(st.sampled_from([0.0, 1e-9, -1e7, 1e7, 0.5]), min_size=1, max_size=3).map(tuple),
    unit=st.sampled_from(["frames", "seconds", "share"]),
    attack=st.sampled_from([0, 1, 600]),
    growth=st.sampled_from([0.1, 1.0, 10.0]),
    by_strength=st.sampled_from([0.0, 1.0]),
    early=st.sampled_from([-1000, 0, 1000]),
    first=st.sampled_from([1, 500]),
    at_end=st.sampled_from(["stop", "turn"]),
)


@given(extremes, st.booleans())
def test_however_far_values_go_a_pulse_is_done_or_refused_in_words(said, tied):
    edit = beaten(tied)
    marks = [Cue(id=f"mark-{k}", time=1.0 + k / 140, kind="bass") for k in range(400)]
    song = edit.song.model_copy(update={"cues": tuple(sorted((*edit.song.cues, *marks), key=by_time))})
    edit = edit.model_copy(update={"song": song})
    command = do.AddPulse(clip="clip-1", cues=tuple(mark.id for mark in marks), values=said)
    with suppress(Refusal):
        (clip,) = derive(do.apply(edit, command)).clips
        assert np.isfinite(clip.source).all()
        assert np.isfinite(
            [clip.pulses.before, clip.pulses.after, *(each.times for each in clip.pulses.pulses)]
        ).all()
