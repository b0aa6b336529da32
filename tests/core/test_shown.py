"""What the edit shows: one clip over another, the same take twice, and only what changed."""

import numpy as np
import pytest

from izmet.core import commands as do
from izmet.core.document.edit import Clip, Steady
from izmet.core.document.places import Pin
from izmet.core.following.consequences import consequences
from izmet.core.following.derived import changes
from izmet.core.following.workings import derive
from izmet.core.shown.plan import render_plan
from izmet.core.shown.repeats import HIDDEN
from izmet.core.shown.stack import frames_shown
from tests.core.examples import tied_edit


def over(edit, n: tuple[int, int], p: tuple[float, float], id="clip-2"):
    """The edit with a second clip of the same take on top."""
    pins = (Pin(id="pin-0", n=n[0], p=p[0]), Pin(id="pin-1", n=n[1], p=p[1]))
    clip = Clip(id=id, take=edit.takes[0].id, pins=pins, spans=(Steady(),))
    return edit.model_copy(update={"clips": (*edit.clips, clip)})


@pytest.fixture
def edit():
    return tied_edit([(1.0, 100), (2.0, 160)])


def test_a_landing_under_another_clip_is_hidden_and_says_by_which(edit):
    first, second = derive(edit).landings
    assert first.exact
    assert second.exact
    covered = over(edit, (100, 140), (500, 540))
    hidden, missing = derive(covered).landings
    assert hidden.exact
    assert hidden.hidden_by is None
    assert not missing.exact
    assert missing.hidden_by == "clip-2"
    assert missing.landed_frame is None
    assert [each.text for each in consequences(derive(edit), derive(covered))] == ["1 tie now hidden"]
    assert consequences(derive(covered), derive(edit)) == []


def test_repeats_about_a_landing_are_those_within_a_quarter_second_of_it():
    """Before 2 s the clip runs at half the speed of its pictures, after it as fast as they come."""
    edit = tied_edit([(1.0, 100), (2.0, 130), (3.0, 190)])
    slow, middle, fast = derive(edit).landings
    assert (slow.repeats_around, middle.repeats_around, fast.repeats_around) == (8, 8, 0)
    assert derive(over(edit, (100, 140), (500, 540))).landings[1].repeats_around == 0


def test_repeats_are_read_off_what_the_edit_shows():
    slow = tied_edit([(1.0, 100), (2.0, 130)])  # every picture twice
    assert derive(slow).clips[0].spans[0].repeats == 30
    covered = over(slow, (70, 109), (500, 539))
    below = derive(covered).clips[0]
    assert below.steps[10:50].tolist() == [HIDDEN] * 40
    assert below.spans[0].repeats == 10
    cut = over(slow, (121, 150), (130, 159))
    assert derive(cut).clips[1].steps[0] == 0, "a cut to the picture that was seen just before repeats it"


def test_requests_tell_clip_position_way_and_speed(edit):
    shown = frames_shown(over(edit, (100, 140), (500, 540)))
    asked = shown.request(100 - shown.first)
    assert (asked.clip, asked.position, asked.picture) == ("clip-2", 500.0, 500)
    assert (asked.direction, asked.speed) == (1, 1.0)
    assert [clip for clip, _ in shown.stretches()] == ["clip-1", "clip-2"]
    gap = frames_shown(over(edit, (130, 140), (500, 510)))
    assert [clip for clip, _ in gap.stretches()] == ["clip-1", None, "clip-2"]
    assert gap.request(125 - gap.first).clip is None


def test_only_what_changed_is_made_again(edit):
    both = over(edit, (300, 340), (500, 540))
    before = derive(both)
    moved = do.apply(both, do.ChangeCue(cue="cue-1", time=2.1))
    change = changes(before, derive(moved))
    assert [clip.id for clip in change.clips] == ["clip-1"]
    assert change.order == ["clip-1", "clip-2"]
    assert change.map is not None
    # 0.1 s later is frame 126 instead of 120: after the clip's first picture every position changed a bit.
    assert (change.map.begin, len(change.map.clip)) == (1 + 0, 126 - 60)
    same = changes(before, derive(do.apply(both, do.Configure(title="Another"))))
    assert same.clips == []
    assert same.map is None
    assert same.loose is None


def test_a_part_has_the_key_of_all_that_it_shows_and_of_nothing_else(edit):
    both = over(edit, (130, 160), (500, 530))
    plan = render_plan(both, frames_shown(both), "x264")
    assert [part.clip for part in plan] == ["clip-1", None, "clip-2"]
    assert sum(len(part.frames) for part in plan) == len(frames_shown(both))
    bent = do.apply(both, do.BeginShape(clip="clip-1", span=0, shape="dip"))
    again = render_plan(bent, frames_shown(bent), "x264")
    assert [a.key == b.key for a, b in zip(plan, again, strict=True)] == [False, True, True]
    louder = do.apply(both, do.SetLevel(clip="clip-1", level=1))
    heard = render_plan(louder, frames_shown(louder), "x264")
    assert [part.key for part in heard] == [part.key for part in plan]
    other = render_plan(both, frames_shown(both), "vp9")
    assert all(a.key != b.key for a, b in zip(plan, other, strict=True))


def test_one_tie_among_two_hundred_clips_costs_what_one_clip_costs():
    """No measurement of speed: the work is counted in clips that are made anew."""
    edit = tied_edit([(1.0, 100), (2.0, 160)])
    for number in range(2, 202):
        edit = over(edit, (number * 60 + 100, number * 60 + 140), (300, 340), id=f"clip-{number}")
    before = derive(edit)
    after = derive(do.apply(edit, do.ChangeCue(cue="cue-1", time=2.05)))
    known = {id(clip) for clip in before.clips}
    assert [clip.id for clip in after.clips if id(clip) not in known] == ["clip-1"]
    np.testing.assert_array_equal(before.map.source[500:], after.map.source[500:])
