"""Titles stand on frames and cues and come and go along their courses; an edit ends where it is told to."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.commands import check
from izmet.core.document.edit import Edit
from izmet.core.document.refusal import Refusal
from izmet.core.document.sounds import Made
from izmet.core.following.derived import changes
from izmet.core.following.workings import derive, workings_of
from izmet.core.shown.mix import SONG, voices
from izmet.core.shown.plan import render_plan
from izmet.core.shown.stack import frames_exported, frames_shown
from tests.core.test_stack import CUT, two_clips


def titled(*commands: object) -> Edit:
    edit = two_clips()
    for command in commands:
        edit = do.apply(edit, command)
    check(edit)
    return edit


def test_a_title_follows_its_cues():
    edit = titled(do.AddTitle(text="Heat three", since="cue-30", until=f"cue-{CUT}"))
    (title,) = frames_shown(edit).titles
    assert title.frames == range(30, CUT)
    moved = do.apply(edit, do.ChangeCue(cue="cue-30", time=40 / 60))
    assert frames_shown(moved).titles[0].frames == range(40, CUT)
    assert not frames_shown(do.apply(edit, do.ChangeTitle(title="title-1", works=False))).titles


def test_one_without_an_end_stays_for_a_bar():
    edit = titled(do.AddTitle(text="Heat three", since=0))
    # There are no beats in this song: two seconds then.
    assert frames_shown(edit).titles[0].frames == range(0, 120)


@given(
    st.integers(1, 90), st.integers(0, 40), st.integers(0, 40),
    st.sampled_from(["straight", "soft", "ease-in", "ease-out"]), st.booleans(),
)  # fmt: skip
def test_a_title_comes_and_goes_once(count, comes, goes, ease, fade):
    """However short it is, it comes first and goes then, never more than it is, and is there between."""
    way = {"x": -0.3, "scale": 2.0, "ease": ease, "fade": fade}
    edit = titled(
        do.AddTitle(
            text="Heat three", since=0, until=count,
            comes={"frames": comes, **way}, goes={"frames": goes, **way},
        )
    )  # fmt: skip
    values = frames_shown(edit).titles[0].values
    seen, x, _, scale, _ = values.T
    if not fade:
        assert (seen == 1).all()
    assert ((seen > 0) & (seen <= 1)).all()
    assert (x <= 1e-12).all()
    assert (scale >= 1 - 1e-12).all()
    if comes + goes < count:
        there = slice(comes, count - goes)
        assert (values[there] == [1, 0, 0, 1, 0]).all()
    top = int(np.argmax(x))
    assert (np.diff(x[: top + 1]) >= -1e-9).all()
    assert (np.diff(x[top:]) <= 1e-9).all()


def test_a_title_after_the_last_clip_is_part_of_the_edit():
    edit = titled(do.AddTitle(text="The end", since=200, until=260))
    shown = frames_shown(edit)
    assert shown.frames.stop == 260
    assert (shown.clip[shown.part_of(range(200, 260))] == -1).all()


def test_a_hit_under_a_card_is_hidden():
    edit = titled(do.AddTitle(text="Heat three", since=0, until=50, card="#102030", comes={"frames": 0}))
    assert next(landing.exact for landing in derive(two_clips()).landings)
    assert not derive(edit).landings[0].exact
    plain = do.apply(edit, do.ChangeTitle(title="title-1", card="none"))
    assert derive(plain).landings[0].exact


def test_the_edit_ends_on_a_cue_and_fades_out():
    edit = titled(do.EndEdit(at="cue-90", tail=0.5))
    assert derive(edit).end.model_dump() == {"dark": 90, "stop": 120}
    shown = frames_exported(edit)
    assert shown.frames.stop == 120
    assert (shown.clip[shown.part_of(range(90, 120))] == -1).all()
    assert shown.clip[89 - shown.first] >= 0
    (song,) = (voice for voice in voices(edit) if voice.source == SONG)
    assert song.end == pytest.approx(2.0)
    assert song.gains is not None
    heard = song.gains.along(np.array([1.0, 1.5, 1.75, 2.0]))
    assert heard == pytest.approx([1, 1, 0.5, 0])
    moved = do.apply(edit, do.ChangeCue(cue="cue-90", time=100 / 60))
    assert derive(moved).end.model_dump() == {"dark": 100, "stop": 130}
    assert derive(do.apply(edit, do.OpenEnd())).end is None


def test_without_a_tail_all_stops_at_once():
    (song,) = (each for each in voices(titled(do.EndEdit(at=90, tail=0))) if each.source == SONG)
    assert (song.end, song.gains) == (pytest.approx(1.5), None)


def test_the_edit_ends_where_a_sound_does():
    boom = do.AddSound(at={"to": "frame", "n": 60}, what=Made(name="boom", length=0.51))
    edit = titled(boom, do.EndEdit(at="cue-30", sound="sound-1", tail=0))
    # The first frame after it, which ends at 1.51 s.
    assert derive(edit).end.dark == 91
    off = do.apply(edit, do.ChangeSound(sound="sound-1", works=False))
    assert derive(off).end.dark == 30


def test_an_end_card_stays_to_the_end():
    edit = titled(do.EndEdit(at="cue-90", tail=1, title="Skerry Run"))
    (card,) = frames_shown(edit).titles
    assert card.frames == range(90, 150)
    assert card.title.card is not None
    longer = do.apply(edit, do.EndEdit(at="cue-90", tail=2))
    assert frames_shown(longer).titles[0].frames == range(90, 210)


def test_nothing_is_written_after_the_end():
    edit = titled(do.AddTitle(text="Heat three", since=60, until=300), do.EndEdit(at=90, tail=0.5))
    assert frames_shown(edit).titles[0].frames == range(60, 120)


def test_only_parts_with_a_title_are_made_anew():
    plain, edit = two_clips(), titled(do.AddTitle(text="Heat three", since=10, until=20))
    keys = {part.key for part in render_plan(plain, frames_shown(plain), "")}
    parts = render_plan(edit, frames_shown(edit), "")
    assert [part.frames for part in parts if part.key in keys] == [
        part.frames for part in parts if part.frames.start >= CUT
    ]
    other = do.apply(edit, do.ChangeTitle(title="title-1", text="Heat four"))
    again = render_plan(other, frames_shown(other), "")
    assert [one.key == two.key for one, two in zip(parts, again, strict=True)].count(False) == 1


def test_what_changed_is_told():
    edit = titled(do.AddTitle(text="Heat three", since=10, until=20))
    near = workings_of(edit, {})
    later = do.apply(edit, do.ChangeTitle(title="title-1", across=0.2, until=30))
    told = changes(near.derived, workings_of(later, {}, near).derived)
    assert told.map is not None
    assert len(told.map.titles[0].opacity) == 20
    assert told.map.layers is None


@pytest.mark.parametrize(
    ("command", "code"),
    [
        (do.AddTitle(text="Heat three", since=20, until=20), "empty-stretch"),
        (do.AddTitle(text="Heat three", since="cue-none"), "no-such-cue"),
        (do.ChangeTitle(title="title-7", text="Heat three"), "no-such-title"),
        (do.RemoveTitle(title="title-7"), "no-such-title"),
        (do.EndEdit(at=20, sound="sound-7"), "no-such-sound"),
    ],
)
def test_what_cannot_be_is_refused(command, code):
    with pytest.raises(Refusal) as refused:
        do.apply(two_clips(), command)
    assert refused.value.code == code


@pytest.mark.parametrize("text", [" \n ", "\n".join("x" * 13), ""])
def test_a_title_has_a_letter_and_not_too_many_lines(text):
    with pytest.raises(ValueError, match=r"title has|at least 1"):
        do.AddTitle(text=text, since=0)


def test_a_card_goes_along_with_the_end_and_is_laid_once():
    edit = titled(do.EndEdit(at="cue-90", tail=1, title="Skerry Run"))
    for again in (do.EndEdit(at=100, title="Skerry Run"), do.EndEdit(at=100), do.EndEdit(at=100, tail=2)):
        edit = do.apply(edit, again)
        (card,) = frames_shown(edit).titles
        assert card.frames.start == 100
    assert len(edit.titles) == 1


def test_a_card_at_the_end_of_a_sound_begins_there():
    boom = do.AddSound(at={"to": "frame", "n": 60}, what=Made(name="boom", length=0.51))
    edit = titled(boom, do.EndEdit(at="cue-30", sound="sound-1", tail=1, title="Skerry Run"))
    assert frames_shown(edit).titles[0].frames == range(91, 151)
