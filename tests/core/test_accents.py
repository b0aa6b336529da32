"""Accents: on which frames they are, and how much; that none uncovers an edge, and none moves a hit."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.arrange.accents import SETS
from izmet.core.commands.accents import USUAL
from izmet.core.document.accents import AccentValues, OnCues, OnCuts, OnFrame, Shake, TieOf, Tint
from izmet.core.document.edit import Cue, CueSelection, Edit, parse_edit
from izmet.core.document.overlaps import Overlap
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from izmet.core.following.montage import montage
from izmet.core.following.workings import derive, workings_of
from izmet.core.retime.easings import eased
from izmet.core.shown.flashing import flashing, flashing_in
from izmet.core.shown.framemap import Look
from izmet.core.shown.stack import frames_shown
from tests.core.felt import accent
from tests.core.test_stack import CUT, UNDER, two_clips

KINDS = sorted(USUAL)
HIT = {"clip": "coming", "pin": "a"}
ASPECT = 64 / 36

places = st.one_of(
    st.builds(lambda n: {"to": "frame", "n": n}, st.integers(-5, 130)),
    st.builds(
        lambda cues: {"to": "cues", "cues": cues},
        st.lists(st.sampled_from(["cue-30", f"cue-{CUT}", "cue-90", "cue-120"]), min_size=1, unique=True),
    ),
    st.builds(
        lambda side: {"to": "ties", "ties": [{"clip": "going", "pin": "b"}, HIT], "side": side},
        st.sampled_from(["moment", "into", "out of"]),
    ),
    st.just({"to": "cuts", "clips": ["going", "coming"]}),
)
lengths = st.integers(0, 40)
timings = st.fixed_dictionaries(
    {
        "phase": st.sampled_from(["before", "on", "after"]),
        "lead": lengths,
        "hold": lengths,
        "tail": lengths,
        "unit": st.just("frames"),
        "rise": st.sampled_from(["straight", "soft", "sharp", "ease-in"]),
        "by_strength": st.floats(0, 1),
        "by_speed": st.floats(0, 1),
        "runs": st.sampled_from(["any", "any", "fast", "slow"]),
    }
)


def looks(edit: Edit) -> list[Look]:
    return list(frames_shown(edit).looks)


def only(edit: Edit) -> Look:
    (found,) = looks(edit)
    return found


@given(st.sampled_from(KINDS), places, timings)
def test_no_accent_moves_a_hit(kind, at, timing):
    edit = two_clips()
    felt = do.apply(edit, accent(kind, at=at, **timing))
    before, after = derive(edit).landings, derive(felt).landings
    for one, other in zip(before, after, strict=True):
        assert one.landed_frame == other.landed_frame or other.hidden_by
        assert other.hidden_by == one.hidden_by or kind in ("fade", "strobe")


@given(places, timings, st.floats(0, 0.25), st.floats(0, 30), st.floats(-0.5, 1), st.booleans())
def test_no_edge_is_seen_however_the_frame_moves(at, timing, amount, turn, punch, steps):
    """Every corner of the frame lies in the picture, unless that is meant to shrink; then it is mirrored."""
    edit = do.apply(two_clips(), accent("shake", at=at, **timing, amount=amount, turn=turn))
    edit = do.apply(edit, accent("punch", n=60, tail=30, amount=punch, steps=steps))
    for look in looks(edit):
        columns = look.values
        for n in range(len(look)):
            x, y, scale, angle = (columns[name][n] for name in ("x", "y", "scale", "turn"))
            corners = np.array([[-1, -1], [1, -1], [-1, 1], [1, 1]]) / 2 * [ASPECT, 1] - [x * ASPECT, y]
            way = np.deg2rad(angle)
            own = corners @ np.array([[np.cos(way), -np.sin(way)], [np.sin(way), np.cos(way)]]) / scale
            shrinks = scale < 1 or (punch < 0 and 60 <= look.first + n <= 90)
            assert shrinks or (np.abs(own) <= [ASPECT / 2 + 1e-9, 0.5 + 1e-9]).all()


def test_it_is_there_before_its_place_on_it_or_after():
    base = {"lead": 2, "hold": 1, "tail": 1, "amount": 1.0, "rise": "straight", "unit": "frames"}
    full = [1 / 3, 2 / 3, 1, 1, 1 / 2]
    for phase, first in (("on", 88), ("before", 85), ("after", 90)):
        look = only(do.apply(two_clips(), accent("dim", cue="cue-90", phase=phase, **base)))
        assert (look.first, look.values["by"].tolist()) == (first, pytest.approx(full))


def test_a_build_goes_down_through_the_span_and_is_back_at_the_hit():
    edit = do.apply(
        two_clips(), accent("dim", at={"to": "ties", "ties": [{"clip": "going", "pin": "b"}], "side": "into"})
    )
    look = only(edit)
    assert look.frames == range(30), "from the clip's beginning to the frame before its hit"
    assert look.values["by"].tolist() == pytest.approx(0.4 * eased("ease-in", np.arange(1, 31) / 30)[0])
    later = do.apply(edit, do.ChangeCue(cue="cue-30", time=40 / 60))
    assert only(later).frames == range(40)


def test_lengths_are_said_in_beats_and_seconds():
    edit = two_clips()
    beats = tuple(Cue(id=f"beat-{k}", time=k / 3, kind="beat") for k in range(8))
    edit = do.apply(edit, do.Batch(commands=tuple(do.AddCue(time=b.time, kind="beat") for b in beats)))
    shake = only(do.apply(edit, accent("shake", n=60)))
    assert shake.frames == range(60, 60 + 20 + 1), "a beat is 20 frames"
    second = only(do.apply(edit, accent("shake", n=60, unit="seconds", tail=0.5)))
    assert second.frames == range(60, 91)
    silent = only(do.apply(two_clips(), accent("shake", n=60)))
    assert silent.frames == range(60, 91), "without beats there are two a second"
    with pytest.raises(Refusal, match="only in a span or a range"):
        do.apply(edit, accent("dim", n=60, unit="share"))


def test_one_accent_lies_on_all_cues_of_a_selection_and_follows_it():
    edit = two_clips()
    selection = CueSelection(id="kicks", name="Kicks", kinds=("kick",))
    edit = do.apply(edit, do.SaveSelection(selection=selection))
    on_all = {"to": "cues", "selection": "kicks"}
    felt = do.apply(edit, accent("flash", at=on_all, tail=0))
    assert [look.first for look in looks(felt)] == [30, CUT, UNDER, 90, 120]
    fewer = do.apply(felt, do.RemoveCues(cues=("cue-90",)))
    assert [look.first for look in looks(fewer)] == [30, CUT, UNDER, 120]
    alone = do.apply(felt, do.RemoveSelection(selection="kicks"))
    assert len(alone.accents[0].at.cues) == 5
    assert [look.first for look in looks(alone)] == [30, CUT, UNDER, 90, 120]
    with pytest.raises(Refusal):
        do.apply(edit, accent("flash", at={"to": "cues", "selection": "gone"}))


def test_it_follows_the_strength_of_its_cues_and_the_speed_of_the_picture():
    edit = two_clips(speed=2)
    edit = do.apply(edit, do.ChangeCue(cue="cue-90", strength=0.4))
    weak = only(
        do.apply(
            edit, accent("dim", cue="cue-90", lead=0, unit="frames", phase="on", amount=1, by_strength=1)
        )
    )
    assert weak.values["by"].tolist() == pytest.approx([0.4])
    whole = {"at": {"to": "ties", "ties": [HIT], "side": "out of"}, "lead": 0, "amount": 1.0}
    fast = only(do.apply(edit, accent("dim", by_speed=1, **whole)))
    assert fast.values["by"] == pytest.approx(np.full(120 - CUT, 2 / 3)), "at thrice real time it is full"
    assert looks(do.apply(edit, accent("dim", runs="slow", **whole))) == []
    assert only(do.apply(edit, accent("dim", runs="fast", **whole))).frames == range(CUT, 120)


def test_a_punch_in_steps_grows_at_each_cue_and_comes_back_after_the_last():
    at = {"to": "cues", "cues": ["cue-30", f"cue-{CUT}", "cue-90"]}
    look = only(
        do.apply(two_clips(), accent("punch", at=at, steps=True, amount=0.1, tail=4, fall="straight"))
    )
    scale = look.values["scale"]
    assert look.frames == range(30, 95)
    steps = [scale[0], scale[CUT - 31], scale[CUT - 30], scale[90 - 30], *scale[-4:]]
    assert steps == pytest.approx([1.1, 1.1, 1.2, 1.3, 1.24, 1.18, 1.12, 1.06])


def test_the_same_seed_shakes_alike_and_each_hit_otherwise():
    at = {"to": "cues", "cues": ["cue-30", "cue-90"]}

    def shaken(seed: int) -> list[np.ndarray]:
        edit = do.apply(two_clips(), accent("shake", at=at, seed=seed, unit="frames", tail=20))
        return [look.values["x"] for look in looks(edit)]

    (one, other), again, anew = shaken(3), shaken(3), shaken(4)
    assert (one == again[0]).all()
    assert (other == again[1]).all()
    assert not np.allclose(one, other)
    assert not np.allclose(one, anew[0])
    assert np.abs(one[0]) <= 0.02


def test_a_trail_shows_earlier_pictures_of_its_own_clip_alone():
    edit = do.apply(
        two_clips(), accent("trail", n=CUT + 1, lead=6, hold=0, tail=6, copies=2, spacing=3, decay=0.5)
    )
    shown = frames_shown(edit)
    picture = dict(zip(shown.frames, shown.picture.tolist(), strict=True))
    for layer in shown.layers:
        assert layer.echo
        ours = [n for n, opacity in zip(layer.frames, layer.opacity, strict=True) if opacity > 0]
        for n in ours:
            shift = picture[n] - int(layer.picture[n - layer.first])
            assert shift in (3, 6), "so many frames before"
            if shown.clips[layer.clip] == "coming":
                assert n - shift >= CUT, "nothing of the clip before the cut"
    assert len(shown.layers) == 4, "two copies on either side of the cut"


def test_evenly_mixed_each_copy_of_a_trail_has_the_share_of_its_weight():
    edit = do.apply(
        two_clips(), accent("trail", n=30, lead=0, hold=0, tail=0, copies=3, spacing=2, decay=0.5)
    )
    seen, weights = 1.0, []
    for layer in reversed(frames_shown(edit).layers):
        weights.append(seen * float(layer.opacity[0]))
        seen -= weights[-1]
    total = 1 + 0.5 + 0.25 + 0.125
    assert [seen, *weights] == pytest.approx([1 / total, 0.5 / total, 0.25 / total, 0.125 / total])


def test_a_strobe_is_on_and_off_for_so_many_frames():
    (layer,) = frames_shown(do.apply(two_clips(), accent("strobe", n=60, frames=2, hold=7, tail=0))).layers
    assert layer.opacity.tolist() == [0, 0, 1, 1, 0, 0, 1, 1]


def test_it_is_turned_off_copied_and_goes_with_what_it_stands_on():
    edit = do.apply(two_clips(), accent("punch", at={"to": "cuts", "clips": ["going", "coming"]}))
    edit = do.apply(edit, accent("flash", at={"to": "ties", "ties": [HIT]}))
    off = do.apply(edit, do.ChangeAccent(accent="accent-1", works=False))
    assert [look.kind for look in looks(off)] == ["flash"]
    copied = do.apply(edit, do.CopyAccent(accent="accent-2", at=OnCues(cues=("cue-90",))))
    assert copied.accents[2].what == edit.accents[1].what
    gone = do.apply(edit, do.Anyway(command=do.RemoveClip(clip="coming")))
    assert [(each.id, each.at) for each in gone.accents] == [("accent-1", OnCuts(clips=("going",)))]


def test_what_stands_on_one_cue_stays_on_its_frame_when_the_cue_goes():
    edit = do.apply(two_clips(), accent("flash", cue="cue-90"))
    assert do.apply(edit, do.RemoveCues(cues=("cue-90",))).accents[0].at == OnFrame(n=90)


@given(
    st.lists(st.tuples(st.sampled_from(KINDS), places, timings), min_size=1, max_size=4), st.integers(50, 75)
)
def test_what_follows_a_drag_is_the_same_as_what_follows_all_at_once(accents, to):
    edit = two_clips()
    for kind, at, timing in accents:
        edit = do.apply(edit, accent(kind, at=at, **timing))
    edit = edit.model_copy(
        update={"clips": (edit.clips[0], edit.clips[1].model_copy(update={"overlap": Overlap(frames=6)}))}
    )
    known = workings_of(edit, {})
    moved = do.attempt(edit, do.SetSpan(clip="coming", span=0, speed=to / 50))
    assert workings_of(moved, {}, known).derived.model_dump_json() == derive(moved).model_dump_json()


def test_every_kind_has_a_usual_way_to_come_and_go():
    kinds = {kind.__name__ for kind in AccentValues.model_fields["what"].annotation.__args__}
    assert len(kinds) == len(KINDS)
    assert {Shake.__name__, Tint.__name__} <= kinds


@pytest.mark.parametrize(
    ("frames", "hold", "amount", "harms"),
    # Pairs of changes in a second at 60 frames a second, after WCAG 2.3.1.
    [
        (4, 59, 1.0, True),
        (7, 59, 1.0, True),
        (10, 59, 1.0, False),
        (30, 240, 1.0, False),
        (4, 59, 0.02, False),
        (4, 11, 1.0, False),
    ],
)
def test_more_than_three_flashes_a_second_are_told_and_softened(frames, hold, amount, harms):
    edit = do.apply(
        two_clips(), accent("strobe", n=10, frames=frames, hold=hold, tail=0, amount=amount, colour="#ffffff")
    )
    found = flashing(edit, frames_shown(edit))
    assert bool(found) == harms
    troubles = montage(edit, derive(edit)).troubles
    assert ("flashing" in {trouble.kind for trouble in troubles}) == harms
    if not harms:
        with pytest.raises(Refusal, match="Nothing flashes"):
            do.apply(edit, do.SoftenFlashes())
        return
    assert 9 <= found[0].first <= 10 + 2 * frames
    softer = do.apply(edit, do.SoftenFlashes())
    assert not flashing(softer, frames_shown(softer))
    assert 0 < softer.accents[0].what.amount < amount


@settings(max_examples=40)
@given(area=st.integers(0, 144), frames=st.integers(2, 15), dark=st.floats(0, 1), moved=st.integers(0, 40))
def test_pictures_flash_where_enough_of_them_does_so_too_often(area, frames, dark, moved):
    """WCAG 2.3.1: over three pairs of changes a second, over a quarter of it, by a tenth, from below .8."""
    n = np.arange(120 - 120 % (2 * frames))
    light = np.full((240, 144), dark)
    light[moved : moved + len(n), :area] += 0.15 * ((n // frames) % 2)[:, None]
    found = flashing_in(light, 1000, 60.0)
    assert bool(found) == (area >= 36 and dark < 0.8 and 6 * frames < 60)
    for stretch in found:
        assert 1000 + moved <= stretch.first < stretch.last <= 1000 + moved + len(n)


def test_flashes_of_many_cues_in_a_second_count_together():
    edit = two_clips()
    edit = do.apply(edit, do.Batch(commands=tuple(do.AddCue(time=1 + k / 5, kind="snare") for k in range(5))))
    snares = [cue.id for cue in edit.song.cues if cue.kind == "snare"]
    few = do.apply(edit, accent("flash", at={"to": "cues", "cues": snares[:3]}, tail=4, light=95))
    many = do.apply(edit, accent("flash", at={"to": "cues", "cues": snares}, tail=4, light=95))
    assert not flashing(few, frames_shown(few))
    assert flashing(many, frames_shown(many))
    soft = do.apply(many, do.SoftenFlashes())
    assert 10 < soft.accents[0].what.light < 40, "a tenth of white is L* 38"


@pytest.mark.parametrize("each", SETS, ids=lambda each: each.id)
def test_a_set_is_one_accent_each_on_many_ties(each):
    edit = two_clips()
    one, other = ({"clip": "going", "pin": "b"}, HIT)
    edit = do.apply(edit, do.AddAccentSet(set=each.id, ties=(one,)))
    assert len(edit.accents) == len(each.accents)
    more = do.apply(edit, do.AddAccentSet(set=each.id, ties=(other,)))
    assert [len(accent.at.ties) for accent in more.accents] == [2] * len(each.accents)
    assert all(landing.exact for landing in derive(more).landings)
    with pytest.raises(Refusal):
        do.apply(edit, do.AddAccentSet(set="loud", ties=(one,)))


def test_a_recipe_carries_the_accents_of_its_tie_to_other_clips():
    edit = do.apply(two_clips(), do.AddAccentSet(set="calm-drop", ties=({"clip": "going", "pin": "b"},)))
    edit = do.apply(edit, accent("shake", cue="cue-30"))
    first = CueSelection(id="first", name="First", kinds=(edit.cue("cue-30").kind,), end=0.6)
    edit = do.apply(edit, do.SaveSelection(selection=first))
    edit = do.apply(edit, accent("punch", at={"to": "cues", "selection": "first"}))
    edit = do.apply(edit, do.MakeRecipe(clip="going", pin="b", name="Heavy"))
    (recipe,) = edit.recipes
    assert [each.what.kind for each in recipe.accents] == ["dim", "drain", "flash", "shake", "punch"]
    assert parse_edit(edit.model_dump(mode="json")) == edit
    laid = do.apply(edit, do.Anyway(command=do.ApplyRecipe(recipe=recipe.id, clips=("coming",), pin="a")))
    on_hit = [each for each in laid.accents if each.at.to == "ties" and TieOf(**HIT) in each.at.ties]
    assert [each.what.kind for each in on_hit] == ["dim", "drain", "flash", "shake", "punch"]
    again = do.apply(
        laid, do.Anyway(command=do.ApplyRecipe(recipe=recipe.id, clips=("coming",), pin="a", overwrite=True))
    )
    assert again.accents == laid.accents, "they are not laid twice"


def test_another_song_takes_them_along_with_their_cues():
    edit = do.apply(two_clips(), accent("flash", at={"to": "cues", "cues": ["cue-30", "cue-90"]}))
    new = {"cue-30": 45, f"cue-{CUT}": 80, f"cue-{UNDER}": 82, "cue-120": 160}
    cues = tuple(Cue(id=f"new-{n}", time=n / 60, kind="kick") for n in new.values())
    song = edit.song.model_copy(update={"cues": cues})
    changed = do.apply(edit, do.ChangeSong(song=song, to={old: f"new-{n}" for old, n in new.items()}))
    assert changed.accents[0].at == OnCues(cues=("new-45",))
    assert looks(changed)[0].first == 45


def test_at_another_rate_all_that_counts_in_frames_lasts_as_long():
    edit = do.apply(two_clips(), accent("strobe", n=60, frames=4, hold=15, tail=0))
    edit = do.apply(edit, accent("trail", n=90, spacing=4, lead=8))
    half = do.apply(edit, do.Configure(rate="30"))
    assert [each.at.n for each in half.accents] == [30, 45]
    assert (half.accents[0].what.frames, half.accents[0].hold) == (2, 7.5)
    assert (half.accents[1].what.spacing, half.accents[1].lead) == (2, 4)
    assert do.apply(half, do.Configure(rate="60")).accents == edit.accents


@pytest.mark.parametrize("steps", [False, True])
def test_punches_that_shrink_together_never_turn_the_picture_inside_out(steps):
    at = {"to": "cues", "cues": ["cue-30", f"cue-{CUT}", f"cue-{UNDER}", "cue-90"]}
    edit = do.apply(two_clips(), accent("punch", at=at, amount=-0.5, steps=steps, hold=40, tail=20))
    edit = do.apply(edit, accent("punch", n=62, amount=-0.5, hold=20))
    for look in looks(edit):
        assert look.values["scale"].min() >= 0.09


def test_long_lengths_follow_the_speed_that_there_is_where_they_are():
    """An accent may reach a long way from its clip; what runs there counts all the same."""
    edit = two_clips()
    far = {"at": {"to": "ties", "ties": [{"clip": "going", "pin": "b"}]}, "lead": 0, "hold": 90, "tail": 0}
    edit = do.apply(
        edit, accent("dim", amount=1, phase="on", by_speed=1, rise="straight", unit="frames", **far)
    )
    known = workings_of(edit, {})
    quick = do.attempt(edit, do.ChangeTie(clip="coming", pin="b", cue="cue-90"))
    assert workings_of(quick, {}, known).derived.model_dump_json() == derive(quick).model_dump_json()
    dark = do.attempt(edit, do.AddBlack(since="cue-90", until="cue-120"))
    there = {n for look in looks(dark) for n in look.frames}
    assert there.isdisjoint(range(90, 120)), "nothing runs where nothing is seen"
    assert 120 in there


def test_dips_that_flash_by_themselves_cannot_be_softened():
    edit = two_clips()
    clips = [edit.clips[0]]
    for k in range(8):
        pins = (Pin(id="a", n=62 + 5 * k, p=200.0 + k), Pin(id="b", n=67 + 5 * k, p=205.0 + k))
        clips.append(
            edit.clips[1].model_copy(
                update={"id": f"clip-{k}", "pins": pins, "overlap": Overlap(kind="dip", frames=4)}
            )
        )
    edit = edit.model_copy(update={"clips": tuple(clips)})
    assert flashing(edit, frames_shown(edit))
    with pytest.raises(Refusal, match="Dips to black"):
        do.apply(edit, do.SoftenFlashes())
