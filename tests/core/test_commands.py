"""Commands: pure, checked, and whatever follows a cue or a moment keeps following it."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from izmet.core import commands as do
from izmet.core.arrange.recipes import SHIPPED
from izmet.core.document.edit import (
    Build,
    Cue,
    Dip,
    Edit,
    Moment,
    Select,
    Song,
    Steady,
    Take,
    moment_name,
    parse_edit,
)
from izmet.core.document.refusal import Refusal
from izmet.core.document.upgrade import VERSION
from izmet.core.document.values import Media
from izmet.core.following.workings import derive
from izmet.core.retime.solve import solve
from tests.core.examples import MEDIA, edit_of, tied_edit

CUES = tuple(Cue(id=f"cue-{i}", time=i * 0.5, kind="beat", made="auto") for i in range(1, 21))


@pytest.fixture
def edit() -> Edit:
    take = Take(
        id="take-1",
        media=MEDIA,
        rate="120",
        frames=960,
        distinct="120",
        width=64,
        height=36,
        moments=(Moment(id="moment-1", frame=480), Moment(id="moment-2", frame=300, kind="action")),
    )
    return Edit(rate="60", song=Song(media=MEDIA, duration=12, sample_rate=48000, cues=CUES), takes=(take,))


@pytest.fixture
def laid(edit) -> Edit:
    return do.apply(edit, do.LayTake(take="take-1", moment="moment-1", cue="cue-10"))


def exact(edit: Edit) -> bool:
    found = derive(edit).landings
    return bool(found) and all(landing.exact for landing in found)


def test_lay_tie_bend_and_change_keep_every_landing(laid):
    assert exact(laid)
    assert derive(laid).clips[0].first == 300 - 240
    tied = do.apply(laid, do.AddTie(clip="clip-1", moment="moment-2", cue="cue-8"))
    assert [pin.id for pin in tied.clips[0].pins] == ["pin-1", "pin-4", "pin-2", "pin-3"]
    bent = do.apply(tied, do.ShapeSpan(clip="clip-1", span=1, shape=Dip(strength=0.6)))
    assert exact(bent)
    moved = do.apply(bent, do.ChangeTie(clip="clip-1", pin="pin-2", cue="cue-12"))
    remarked = do.apply(moved, do.ChangeMoment(take="take-1", moment="moment-1", frame=471))
    earlier = do.apply(remarked, do.ChangeCue(cue="cue-8", time=3.9))
    assert exact(earlier)
    assert [landing.wanted_frame for landing in derive(earlier).landings] == [234, 360]
    assert earlier.cue("cue-8").made == "hand"
    assert bent.clips[0].spans[1] == Dip(strength=0.6)


def test_a_second_tie_keeps_a_dip_on_both_sides_but_not_a_build(edit):
    two = do.apply(
        do.apply(edit, do.LayTake(take="take-1", moment="moment-1", cue="cue-12")),
        do.AddTie(clip="clip-1", moment="moment-2", cue="cue-8"),
    )
    two = do.apply(two, do.AddMoment(take="take-1", frame=400, kind="action"))
    for shape, kept in ((Dip(strength=0.2), Dip(strength=0.2)), (Build(start=0.4, change=0.5), Steady())):
        bent = do.apply(two, do.ShapeSpan(clip="clip-1", span=1, shape=shape))
        third = do.apply(bent, do.AddTie(clip="clip-1", moment="moment-3", cue="cue-10"))
        assert third.clips[0].spans[1:3] == (kept, kept)
        assert exact(third)


def test_a_moment_at_the_edge_takes_the_edges_place(laid):
    start = do.apply(laid, do.AddMoment(take="take-1", frame=0, kind="start"))
    tied = do.apply(start, do.AddTie(clip="clip-1", moment="moment-3", cue="cue-4"))
    assert len(tied.clips[0].pins) == 3
    assert exact(tied)


def test_a_moment_in_the_place_of_a_proposal_has_it_never_proposed_again(edit):
    refined = do.apply(edit, do.AddMoment(take="take-1", frame=402, kind="end", instead_of=400))
    take = refined.take("take-1")
    assert take.dismissed == (400,)
    assert [moment.kind for moment in take.moments if moment.frame == 402] == ["end"]


def shown(edit):
    map = derive(edit).map
    return map.first, map.clip.tolist(), map.source.tolist()


def test_a_removed_cue_or_moment_leaves_the_picture_where_it_was(laid):
    before = shown(laid)
    for command in (do.RemoveCues(cues=("cue-10",)), do.RemoveMoment(take="take-1", moment="moment-1")):
        assert shown(do.apply(laid, command)) == before
    other = do.UseSong(song=Song(media=MEDIA, duration=60, sample_rate=44100))
    assert shown(do.apply(laid, other)) == before


def test_a_new_rate_keeps_landings_and_pinned_instants(laid):
    pinned = do.apply(laid, do.RemoveCues(cues=("cue-10",)))
    slower = do.apply(pinned, do.Configure(rate="24"))
    assert derive(slower).clips[0].pins[1].n == 120
    assert exact(do.apply(laid, do.Configure(rate="30000/1001")))


def test_removing_a_pin_joins_its_spans_and_the_last_one_stays(laid):
    tied = do.apply(laid, do.AddTie(clip="clip-1", moment="moment-2", cue="cue-8"))
    assert do.apply(tied, do.RemovePin(clip="clip-1", pin="pin-4")).clips == laid.clips
    with pytest.raises(Refusal, match="only pin"):
        do.apply(laid, do.RemovePin(clip="clip-1", pin="pin-2"))


def test_a_shape_keeps_what_the_span_said_of_itself_unless_it_says_its_own(laid):
    def first_span(shape):
        return do.apply(laid, do.ShapeSpan(clip="clip-1", span=0, shape=shape)).clips[0].spans[0]

    assert laid.clips[0].spans[0].speed == 1
    assert first_span(Dip(strength=0.5)) == Dip(strength=0.5, speed=1)
    assert first_span(Steady(speed=0.5)) == Steady(speed=0.5)
    assert first_span(Dip(frames=40)) == Dip(frames=40)


def test_edges_can_be_trimmed(laid):
    trimmed = do.apply(laid, do.ChangeEdge(clip="clip-1", pin="pin-1", p=240, speed=0.5))
    assert derive(trimmed).clips[0].first == 300 - 240
    fixed = do.apply(laid, do.ChangeEdge(clip="clip-1", pin="pin-3", n=420, p=960 - 1))
    assert derive(fixed).clips[0].pins[-1].n == 420
    gone = do.apply(laid, do.RemoveClip(clip="clip-1"))
    assert shown(gone) == (0, [], [])


@pytest.mark.parametrize(
    ("command", "code"),
    [
        (do.ChangeTie(clip="clip-1", pin="pin-2", cue="cue-99"), "no-such-cue"),
        (do.ChangeTie(clip="clip-1", pin="pin-9", cue="cue-1"), "no-such-pin"),
        (do.ShapeSpan(clip="clip-1", span=7, shape=Steady()), "no-such-span"),
        (do.LayTake(take="take-9", moment="moment-1", cue="cue-1"), "no-such-take"),
        (do.RemoveClip(clip="clip-4"), "no-such-clip"),
        (do.AddMoment(take="take-1", frame=960), "moment-outside-take"),
        (do.AddCue(time=99), "cue-outside-song"),
        (do.AddCue(time=-1), "bad-command"),
        (do.RemoveMoment(take="take-1", moment="moment-9"), "no-such-moment"),
        (do.AddTie(clip="clip-1", moment="moment-2", cue="cue-12"), "pins-out-of-order"),
        (do.ChangeEdge(clip="clip-1", pin="pin-1", n=0, speed=9), "pin-outside-take"),
    ],
)
def test_what_cannot_be_is_refused_and_says_why(laid, command, code):
    with pytest.raises(Refusal) as refused:
        do.apply(laid, command)
    assert refused.value.code == code
    assert refused.value.what
    assert refused.value.as_dict()["code"] == code


@given(st.data())
def test_any_run_of_commands_leaves_an_edit_that_reads_back_the_same(data):
    media = Media(name="a", path="a.wav")
    edit = Edit(rate="30", song=Song(media=media, duration=12, sample_rate=48000, cues=CUES))
    take = Take(id="take-1", media=media, rate="24", frames=200, distinct="24", width=64, height=36)
    edit = do.apply(do.apply(edit, do.UseTake(take=take)), do.AddMoment(take="take-1", frame=100))
    edit = do.apply(edit, do.LayTake(take="take-1", moment="moment-1", cue="cue-9"))
    cue = st.sampled_from([cue.id for cue in CUES])
    moment = st.sampled_from(["moment-1", "moment-2"])
    some = st.one_of(
        st.builds(do.AddCue, time=st.floats(0, 12)),
        st.builds(do.ChangeCue, cue=cue, time=st.floats(0, 12)),
        st.builds(do.AddMoment, take=st.just("take-1"), frame=st.integers(0, 199)),
        st.builds(do.AddTie, clip=st.just("clip-1"), cue=cue, moment=moment),
        st.builds(do.RemoveCues, cues=st.tuples(cue)),
        st.builds(do.ShapeSpan, clip=st.just("clip-1"), span=st.integers(0, 2),
                  shape=st.builds(Dip, strength=st.floats(0, 1))),
    )  # fmt: skip
    for command in data.draw(st.lists(some, max_size=8)):
        try:
            edit = do.apply(edit, command)
        except Refusal:
            continue
        assert all(landing.exact for landing in derive(edit).landings)
    assert parse_edit(json.loads(edit.model_dump_json())) == edit


def test_commands_are_read_from_json():
    command = TypeAdapter(do.Command).validate_json('{"do":"add-cue","time":1.5,"kind":"drop"}')
    assert command == do.AddCue(time=1.5, kind="drop")


def of_pin(**said):
    """A document with one clip, whose first pin says this."""
    pins = [{"id": "a", **said}, {"id": "b", "n": 90, "p": 90}]
    clip = {"id": "clip-1", "take": "take-1", "pins": pins, "spans": [{"shape": "steady"}]}
    return {"version": 5, "rate": "60", "clips": [clip]}


@pytest.mark.parametrize(
    ("document", "code", "where"),
    [
        ([], "not-an-edit", ""),
        ({}, "unknown-version", "version"),
        ({"version": VERSION + 1}, "unknown-version", "version"),
        ({"version": 1, "rate": 29.97}, "bad-document", "rate"),
        ({"version": 1, "rate": "60", "mood": "calm"}, "bad-document", "mood"),
        ({"version": 1, "rate": "60", "takes": [{"id": "t"}]}, "bad-document", "takes.0"),
        (of_pin(n=3, cue="cue-1"), "bad-document", "clips.0.pins.0"),
        (of_pin(p=3, moment="moment-1"), "bad-document", "clips.0.pins.0"),
        (of_pin(n=3, loose=1.5), "bad-document", "clips.0.pins.0"),
        (of_pin(moment="moment-1", loose=1.5), "bad-document", "clips.0.pins.0"),
    ],
)
def test_bad_documents_name_the_field(document, code, where):
    with pytest.raises(Refusal) as refused:
        parse_edit(document)
    assert refused.value.code == code
    assert refused.value.where.startswith(where)


def test_parts_with_one_id_are_refused(laid):
    document = json.loads(laid.model_dump_json())
    document["takes"].append(document["takes"][0])
    with pytest.raises(Refusal, match="Two parts"):
        do.check(parse_edit(document))


def relinked(edit, **changes):
    return edit.takes[0].model_copy(update={"media": Media(name="other", sha256="1" * 64), **changes})


def test_another_file_brings_its_own_facts_and_moments_keep_their_instants(laid):
    """120 frames a second instead of 60, and twice as many of them."""
    old = laid.takes[0]
    facts = {"rate": old.rate * 2, "distinct": old.rate * 2, "frames": old.frames * 2, "width": 640}
    linked = do.apply(laid, do.RelinkTake(take=relinked(laid, **facts)))
    take = linked.takes[0]
    assert (take.rate, take.frames, take.width) == (old.rate * 2, old.frames * 2, 640)
    assert [m.frame for m in take.moments] == [2 * m.frame for m in old.moments]
    assert exact(linked)
    assert [m.frame / take.rate for m in take.moments] == [m.frame / old.rate for m in old.moments]


def test_the_same_frames_at_another_rate_keep_their_numbers_unless_instants_are_meant(laid):
    old = laid.takes[0]
    same = relinked(laid, rate=old.rate / 2, distinct=old.rate / 2)
    kept = do.apply(laid, do.RelinkTake(take=same)).takes[0]
    assert [m.frame for m in kept.moments] == [m.frame for m in old.moments]
    moved = do.apply(laid, do.RelinkTake(take=same, keep="instant")).takes[0]
    assert [m.frame for m in moved.moments] == [round(m.frame / 2) for m in old.moments]


def test_what_does_not_fit_a_linked_file_is_named(laid):
    short = relinked(laid, frames=laid.takes[0].moments[-1].frame)
    with pytest.raises(Refusal, match="would lie after") as refused:
        do.apply(laid, do.RelinkTake(take=short))
    assert moment_name(laid.takes[0].moments[-1]) in str(refused.value)
    assert refused.value.where == "other"
    brief = do.RelinkSong(media=Media(name="brief", sha256="1" * 64), duration=3, sample_rate=8000)
    with pytest.raises(Refusal, match="cues lie after it") as refused:
        do.apply(laid, brief)
    long = do.apply(laid, brief.model_copy(update={"duration": 600.0}))
    assert (long.song.duration, long.song.sample_rate, long.song.cues) == (600, 8000, laid.song.cues)


def test_cues_of_a_document_are_put_in_order_and_none_lies_after_the_end(laid):
    document = laid.model_dump(mode="json")
    document["song"]["cues"].reverse()
    assert parse_edit(document) == laid
    document["song"]["cues"][3]["time"] = laid.song.duration + 0.5
    with pytest.raises(Refusal, match="after the song's end") as refused:
        parse_edit(document)
    assert document["song"]["cues"][3]["id"] in str(refused.value)


def test_a_take_is_named_tagged_noted_and_goes_with_its_clips(laid):
    take = laid.takes[0].id
    named = do.apply(laid, do.ChangeTake(take=take, name="Heat two", tags=["gold"], notes="sun low"))
    assert (named.takes[0].media.name, named.takes[0].tags, named.takes[0].notes) == (
        "Heat two",
        ("gold",),
        "sun low",
    )
    assert named.takes[0].media.sha256 == laid.takes[0].media.sha256
    with pytest.raises(Refusal, match="1 clip shows"):
        do.apply(named, do.RemoveTake(take=take))
    gone = do.apply(named, do.RemoveTake(take=take, with_clips=True))
    assert (gone.takes, gone.clips) == ((), ())


def test_a_select_is_laid_as_a_clip_of_its_own(laid):
    take, cue = laid.takes[0].id, laid.song.cues[0].id
    kept = do.apply(laid, do.AddSelect(take=take, begin=100, end=159))
    lay = do.LaySelect(take=take, select=kept.takes[0].selects[0].id, cue=cue)
    twice = do.apply(do.apply(kept, lay), lay)
    assert len(twice.clips) == 3
    curve = solve(twice, twice.clips[-1])
    assert (curve.first, curve.shown[0]) == (twice.frame_of(cue), 100)
    assert 157 < curve.shown[-1] <= 159, "as far as whole output frames go"


@given(
    st.integers(0, 959), st.integers(1, 20), st.none() | st.tuples(st.integers(0, 959), st.integers(1, 400))
)
def test_a_take_is_laid_by_what_is_marked_around_the_moment_and_not_on_beyond_the_music(frame, cue, select):
    edit = edit_of(list(CUES), duration=12)
    take, moment = edit.takes[0].id, edit.takes[0].moments[0].id
    edit = do.apply(edit, do.ChangeMoment(take=take, moment=moment, frame=frame))
    # Take and edit run at 60: one source frame each output frame. None is seen after the music, unless meant.
    begin, end = 0, min(1199, frame + max(1, 720 - 30 * cue))
    if select is not None:
        at, long = select
        edit = do.apply(edit, do.AddSelect(take=take, begin=at, end=at + long))
        if at <= frame <= at + long:
            begin, end = at, at + long
    edit = do.apply(edit, do.LayTake(take=take, moment=moment, cue=f"cue-{cue}"))
    curve = solve(edit, edit.clips[0])
    lands = edit.frame_of(f"cue-{cue}")
    assert curve.shown[lands - curve.first] == frame
    assert (curve.first, curve.shown[0]) == (max(0, lands - (frame - begin)), max(begin, frame - lands))
    assert curve.last == lands + end - frame


def with_selects(*ends):
    edit = edit_of([])
    selects = [Select(id="select-1", begin=0, end=end) for end in ends]
    return do.with_(edit, takes=[do.with_(edit.takes[0], selects=selects)])


def test_a_document_from_outside_is_judged_on_the_way_in():
    do.check(with_selects(10))
    twice = do.with_(edit_of([]), recipes=[do.with_(SHIPPED[0], id="mine")] * 2)
    for edit, code in (
        (twice, "id-twice"),
        (with_selects(10, 20), "id-twice"),
        (with_selects(10_000), "select-outside-take"),
    ):
        with pytest.raises(Refusal) as refused:
            do.check(edit)
        assert refused.value.code == code


def test_ids_as_long_as_they_may_be_leave_room_for_new_ones():
    edit = tied_edit([(1.0, 10), (2.0, 70)])
    clip = do.with_(edit.clips[0], id="9" * 40)
    edit = do.with_(edit, clips=[clip])
    split = do.apply(edit, do.SplitClip(clip=clip.id, n=80, cues=[]))
    assert [each.id for each in split.clips] == ["9" * 40, "clip-1"]


def test_a_fault_of_ours_is_no_refusal(monkeypatch):
    def faulty(self, edit):
        raise ValueError("a fault")

    monkeypatch.setattr(do.AddCue, "on", faulty)
    with pytest.raises(ValueError, match="a fault"):
        do.apply(edit_of([]), do.AddCue(time=1, kind="kick"))
