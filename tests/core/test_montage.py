"""Many clips on the music: slots, cuts, running through, jump cuts, another song; what is tied stays."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.arrange.continuing import PACE, PLACE, beginnings
from izmet.core.arrange.songs import carry
from izmet.core.commands.common import with_
from izmet.core.commands.mending import grouped
from izmet.core.commands.repairs import repairs
from izmet.core.document.edit import Clip, Cue, Dip, Edit, Hold, Moment, Song, Steady, Swell, Take, parse_edit
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from izmet.core.following.montage import Drift, montage, moving
from izmet.core.following.workings import derive, workings_of
from izmet.core.music.lengths import Length
from izmet.core.retime.solve import solve
from izmet.core.shown.pictures import TakePictures
from izmet.core.shown.stack import frames_exported, frames_shown
from tests.core.examples import MEDIA, anyway, tied_edit

BEAT = 0.5


def song_of(beat: float = BEAT, drop: int = 32, beats: int = 80, begin: float = 0.5) -> Song:
    """A song of so many beats, a downbeat every fourth, with one drop."""
    cues = [
        Cue(
            id=f"b-{i}",
            time=round(begin + i * beat, 6),
            kind="beat" if i % 4 else "downbeat",
            strength=0.5 + 0.1 * (i % 4 == 0),
        )
        for i in range(beats)
    ]
    cues.append(Cue(id="drop", time=begin + drop * beat, kind="drop"))
    return Song(media=MEDIA, duration=begin + beats * beat + 2, sample_rate=48000, cues=cues)


def empty(takes: int = 3, frames: int = 600) -> Edit:
    """An edit with a song and takes, each with an impact at frame 200 and an end at 300."""
    end = Moment(id="end", frame=300, kind="end")
    found = tuple(
        Take(
            id=f"take-{i}", media=MEDIA, rate="60", distinct="60", frames=frames, width=64, height=36,
            moments=(Moment(id="hit", frame=200, weight=1 - 0.1 * i), end),
        )
        for i in range(takes)
    )  # fmt: skip
    return Edit(rate="60", song=song_of(), takes=found)


def drift(dx, dy=None, across=None, down=None) -> Drift:
    """A drift from what is known of it."""
    rest, middle = np.zeros(len(dx)), np.full(len(dx), 0.5)
    columns = (
        dx,
        rest if dy is None else dy,
        middle if across is None else across,
        middle if down is None else down,
    )
    return Drift(*(np.asarray(column, np.float32) for column in columns))


@pytest.mark.parametrize("held", [(1,), (2,), (2, 3)], ids=["60 in 60", "30 in 60", "24 in 60"])
@pytest.mark.parametrize("along", [1, -1])
def test_captures_move_as_fast_as_takes_whose_pictures_all_differ(held, along):
    """Three pixels a frame, told at once where a picture is new: the content goes as far."""
    shows = np.repeat(np.arange(60), np.resize(held, 60))[:60]
    moved = 3.0 * np.diff(shows, prepend=0) * np.mean(held)
    told = [moving(drift(moved), frame, along, 1, empty().takes[0]).dx * 64 for frame in range(20, 40)]
    assert np.mean(told) == pytest.approx(3.0, rel=0.05)
    assert min(told) > 2
    assert moving(drift(np.zeros(60)), 20, along, 1, empty().takes[0]).dx == 0


def filled(cues=None, song=None, **more) -> Edit:
    base = empty() if song is None else with_(empty(), song=song)
    cues = cues or [f"b-{i}" for i in range(8, 25, 4)]
    shots = [{"take": f"take-{i}"} for i in range(3)]
    return do.apply(base, do.FillSlots(cues=cues, shots=shots, **more))


@pytest.mark.parametrize("how", ["cut", "inside", "begin", "end", "stretch"])
def test_slots_are_filled_cut_on_their_cues_and_follow_them(how):
    edit = filled(how=how)
    shown = frames_shown(edit)
    stretches = [(clip, shown.first + frames.start) for clip, frames in shown.stretches()]
    assert stretches == [(f"clip-{i + 1}", edit.frame_of(f"b-{8 + 4 * i}")) for i in range(4)]
    assert all(landing.exact for landing in derive(edit).landings)
    assert len(derive(edit).landings) == (4 if how in ("cut", "inside") else 0)
    moved = do.apply(edit, do.ChangeCue(cue="b-12", time=6.9))
    assert (
        solve(moved, moved.clips[1]).first
        == edit.frame_of("b-12") + 24
        == solve(moved, moved.clips[0]).last + 1
    )
    assert all(landing.exact for landing in derive(moved).landings)


@given(
    st.integers(201, 500),
    st.sampled_from([24, 30, 60, 120]),
    st.sampled_from([4, 8]),
    st.sampled_from(["cut", "inside"]),
)
def test_a_shot_that_is_too_short_runs_slower_to_fill_its_slot(frames, rate, beats, how):
    base = empty(1, frames)
    take = with_(base.takes[0], rate=str(rate), moments=[Moment(id="hit", frame=min(200, frames - 40))])
    base = with_(base, takes=[take])
    edit = do.apply(base, do.FillSlots(cues=["b-8", f"b-{8 + beats}"], shots=[{"take": "take-0"}], how=how))
    clip = edit.clips[0]
    first, last = edit.frame_of("b-8"), edit.frame_of(f"b-{8 + beats}")
    curve, at = solve(edit, clip), edit.place_of(clip.pins[1])
    sides = [(take.moments[0].frame, at - first), (frames - 1 - take.moments[0].frame, last - at)]
    speeds = [source * 60 / rate / room if room else 1 for source, room in sides]
    assert [span.speed for span in clip.spans] == [
        pytest.approx(speed if 0.5 <= speed < 1 else 1) for speed in speeds
    ]
    if min(speeds) >= 0.5:
        assert (curve.first, curve.last) == (first, last - 1)
    assert all(landing.exact for landing in derive(edit).landings)


def test_shots_come_in_their_order_by_weight_or_by_a_kept_chance():
    takes = lambda edit: [clip.take for clip in edit.clips]  # noqa: E731
    assert takes(filled()) == ["take-0", "take-1", "take-2", "take-0"]
    assert takes(filled(order="weight")) == ["take-0", "take-1", "take-2", "take-0"]
    one, same, other = (filled(order="random", seed=seed) for seed in (1, 1, 5))
    assert takes(one) == takes(same)
    assert takes(one) != takes(other)
    swapped = do.apply(filled(), do.SwapClips(clip="clip-1", other="clip-2"))
    assert takes(swapped) == ["take-1", "take-0", "take-2", "take-0"]
    assert all(landing.exact for landing in derive(swapped).landings)
    assert do.apply(swapped, do.SwapClips(clip="clip-1", other="clip-2")) == filled()
    turned = do.apply(filled(), do.ReverseOrder(clips=[f"clip-{i}" for i in (1, 2, 3, 4)]))
    assert takes(turned) == takes(filled())[::-1]


frames = st.integers(61, 239)


@settings(max_examples=60)
@given(st.lists(frames, min_size=1, max_size=4, unique=True), st.floats(0, 1))
def test_a_clip_that_is_split_shows_what_it_showed_and_joined_is_as_before(cuts, strength):
    edit = tied_edit([(1.0, 10), (2.5, 200), (4.0, 500)], [Dip(strength=strength), Dip()])
    split = edit
    for n in cuts:
        seen = frames_shown(split)
        clip = seen.request(n - seen.first).clip
        split = do.apply(split, do.SplitClip(clip=clip, n=n))
    before, after = frames_shown(edit), frames_shown(split)
    assert before.picture.tolist() == after.picture.tolist()
    assert len(split.clips) == len(cuts) + 1
    assert len(derive(split).landings) == len(derive(edit).landings) == 3
    assert all(landing.exact for landing in derive(split).landings)
    order = sorted(split.clips, key=lambda clip: solve(split, clip).first)
    for clip in order[1:]:
        split = do.apply(split, do.JoinClips(clip=order[0].id, other=clip.id))
    assert split == edit.model_copy(update={"clips": split.clips})
    assert [clip.model_dump(exclude={"id"}) for clip in split.clips] == [
        clip.model_dump(exclude={"id"}) for clip in edit.clips
    ]


@settings(max_examples=60)
@given(
    st.lists(st.integers(601, 779), min_size=2, max_size=2, unique=True),
    st.floats(0, 1),
    st.integers(30, 400),
)
def test_a_piece_is_turned_and_stretched_as_it_is_seen_whatever_lies_beyond_its_cuts(cuts, strength, length):
    """A clip of three ties, and one whose ends are open, each cut twice."""
    for whole in (
        tied_edit([(10.0, 10), (11.5, 200), (13.0, 500)], [Dip(strength=strength), Dip()]),
        do.apply(tied_edit([(11.0, 500)]), do.LayTake(take="gannet", moment="moment-0", cue="cue-0")),
    ):
        split = whole
        for n in sorted(cuts, reverse=True):
            split = do.apply(split, do.SplitClip(clip="clip-1", n=n))
        for clip in split.clips:
            turned_and_stretched(split, clip, length)


def turned_and_stretched(split: Edit, clip: Clip, length: int) -> None:
    before = solve(split, clip)
    if before.first == before.last:
        return
    ends = float(before.source[0]), float(before.source[-1])
    tied = [landing for landing in derive(split).landings if landing.clip == clip.id]

    turned = anyway(split, do.ReverseClip(clip=clip.id))
    after = solve(turned, turned.clip(clip.id))
    assert (float(after.source[-1]), float(after.source[0])) == pytest.approx(ends)
    assert len(after.source) == len(before.source)
    if tied:
        assert tied[0].cue in {each.cue for each in derive(turned).landings if each.clip == clip.id}
    else:
        assert (after.first, after.last) == (before.first, before.last)

    if any(landing.wanted_frame - before.first >= length - 1 for landing in tied):
        return  # Its tie stands in the way.
    long = anyway(split, do.EndClip(clip=clip.id, length=Length(count=length), close=True, untie=True))
    after = solve(long, long.clip(clip.id))
    assert (float(after.source[0]), float(after.source[-1])) == pytest.approx(ends)
    assert (after.first, len(after.source)) == (before.first, length)


def test_untied_pieces_that_follow_close_up_with_their_cuts():
    edit = tied_edit([(1.0, 10), (2.5, 200), (4.0, 500)])
    for n in (140, 120, 100):
        edit = do.apply(edit, do.SplitClip(clip="clip-1", n=n))
    loose = [do.ReverseClip(clip=clip.id) for clip in edit.clips if solve(edit, clip).first in (100, 120)]
    for turn in loose:
        edit = anyway(edit, turn)
    one, _, three, four = sorted(edit.clips, key=lambda clip: solve(edit, clip).first)
    split = do.apply(edit, do.SplitClip(clip=three.id, n=130))
    closed = anyway(split, do.EndClip(clip=one.id, length=Length(count=20), close=True))
    for clip in split.clips:
        was, now = solve(split, clip), solve(closed, closed.clip(clip.id))
        moved = 0 if clip.id in (one.id, four.id) else -20
        assert now.first == was.first + moved
        if clip.id != one.id:
            assert now.source.tolist() == was.source.tolist()


@settings(max_examples=60)
@given(st.data())
def test_any_run_of_cutting_covers_what_it_says_and_keeps_every_tie_that_is_seen(data):
    edit = filled()
    for _ in range(data.draw(st.integers(1, 5))):
        names = [clip.id for clip in edit.clips]
        one, two = data.draw(st.sampled_from(names)), data.draw(st.sampled_from(names))
        n = data.draw(st.integers(200, 900))
        command = data.draw(
            st.sampled_from(
                [
                    do.SplitClip(clip=one, n=n),
                    do.JoinClips(clip=one, other=two),
                    do.MoveCut(clip=one, other=two, n=n),
                    do.SlipClip(clip=one, by=n - 500),
                    do.SlideClip(clip=one, by=n - 500),
                    do.RunThrough(cuts=[(one, two)], length=Length(count=20)),
                    do.SwapClips(clip=one, other=two),
                    do.CloseGaps(),
                    do.ReverseClip(clip=one),
                    do.EndClip(clip=one, length=Length(count=n // 4), close=True),
                ]
            )
        )
        try:
            after = do.apply(edit, command)
        except Refusal:
            continue  # what cannot be is told, and nothing changes
        shown = frames_shown(after)
        for clip in after.clips:
            curve = solve(after, clip)
            assert len(curve.source) == curve.last - curve.first + 1
            assert shown.first <= curve.first
        for landing in derive(after).landings:
            assert landing.exact or landing.hidden_by is not None
        assert parse_edit(after.model_dump(mode="json")) == after
        edit = after


@settings(max_examples=80)
@given(st.data())
def test_what_is_nearly_the_same_follows_as_if_it_were_worked_out_anew(data):
    """Clips lie over one another, hold, are dark or cut: a quick look tells what a whole one does."""
    edit = filled()
    pictures = {"take-0": TakePictures(np.arange(600) // 2), "take-2": TakePictures(np.arange(600))}
    pins = (Pin(id="pin-1", n=470, p=100), Pin(id="pin-2", n=530, p=160))
    above = Clip(id="above", take="take-0", pins=pins, spans=(Steady(),))
    edit = edit.model_copy(update={"clips": (*edit.clips, above)})
    if data.draw(st.booleans()):
        edit = do.apply(edit, do.AddBlack(since=400, until=500))
    near = workings_of(edit, pictures)
    for _ in range(data.draw(st.integers(1, 4))):
        clip = data.draw(st.sampled_from(near.edit.clips))
        n = data.draw(st.integers(200, 900))
        command = data.draw(
            st.sampled_from(
                [
                    do.SlideClip(clip="above", by=n - 500),
                    do.SlipClip(clip=clip.id, by=n - 500),
                    do.MoveCut(clip=clip.id, other=data.draw(st.sampled_from(near.edit.clips)).id, n=n),
                    do.BeginShape(clip=clip.id, span=0, shape="dip"),
                    do.HoldPicture(clip=clip.id, pin=clip.pins[-2].id, frames=n % 40 + 1),
                    do.SplitClip(clip=clip.id, n=n),
                    do.Configure(title="Another"),
                ]
            )
        )
        try:
            after = do.apply(near.edit, command)
        except Refusal:
            continue
        quick, whole = workings_of(after, pictures, near), workings_of(after, pictures)
        for one, other in ((quick.shown, whole.shown), (quick.derived.map, whole.derived.map)):
            for name in ("clip", "picture" if one is quick.shown else "source"):
                np.testing.assert_array_equal(getattr(one, name), getattr(other, name))
        for name in ("position", "direction", "speed"):
            np.testing.assert_array_equal(getattr(quick.shown, name), getattr(whole.shown, name))
        np.testing.assert_array_equal(quick.passed, whole.passed)
        assert quick.derived.model_dump(mode="json") == whole.derived.model_dump(mode="json")
        near = quick


def test_a_cut_is_one_thing_that_both_share():
    edit = filled()
    rolled = do.apply(edit, do.MoveCut(clip="clip-1", other="clip-2", cue="b-13"))
    left, right = (solve(rolled, clip) for clip in rolled.clips[:2])
    assert left.last + 1 == right.first == rolled.frame_of("b-13")
    was = frames_shown(edit)
    now = frames_shown(rolled)
    other = np.flatnonzero(was.picture != now.picture) + now.first
    assert (other.min(), other.max()) == (edit.frame_of("b-12"), edit.frame_of("b-13") - 1)
    back = do.apply(rolled, do.MoveCut(clip="clip-1", other="clip-2", cue="b-12"))
    assert frames_shown(back).picture.tolist() == was.picture.tolist()
    with pytest.raises(Refusal) as refused:
        do.apply(edit, do.SlipClip(clip="clip-1", by=5))
    assert refused.value.code == "ties-hold"
    slipped = do.apply(filled(how="begin"), do.SlipClip(clip="clip-1", by=5))
    assert frames_shown(slipped).picture[0] == 5
    begins = do.apply(filled(how="begin"), do.SlipClip(clip="clip-1", by=40))
    assert frames_shown(do.apply(begins, do.SlipClip(clip="clip-1", by=-40))).picture[0] == 0
    with pytest.raises(Refusal, match="has 40 frames before"):
        do.apply(begins, do.SlipClip(clip="clip-1", by=-41))
    # A clip that ends on a cue has nothing beyond it to show.
    stretched = filled(how="stretch")
    with pytest.raises(Refusal) as refused:
        do.apply(stretched, do.MoveCut(clip="clip-1", other="clip-2", cue="b-13"))
    assert refused.value.code == "ends-on-a-tie"


def test_through_a_cut_at_speed_both_sides_meet_on_it_and_the_hits_land():
    """Common practice, no source: the last 30 to 40 frames of each clip run fast into the next."""
    edit = filled(how="inside")
    cuts = [("clip-1", "clip-2"), ("clip-2", "clip-3")]
    run = do.apply(edit, do.RunThrough(cuts=cuts, length=Length(count=20), speed=4))
    shown = frames_shown(run)
    for cut in ("b-12", "b-16"):
        at = run.frame_of(cut) - shown.first
        assert shown.speed[at - 20 : at + 20] == pytest.approx(4.0)
        assert shown.speed[at - 24 : at - 21] == pytest.approx(1.0)
        assert shown.speed[at + 21 : at + 24] == pytest.approx(1.0)
    assert [frames.start for _, frames in shown.stretches()] == [
        frames.start for _, frames in frames_shown(edit).stretches()
    ]
    assert all(landing.exact for landing in derive(run).landings)
    tied = do.apply(filled(how="cut"), do.RunThrough(cuts=cuts, length=Length(count=20), speed=4))
    assert frames_shown(tied).speed[at - 40 : at] != pytest.approx(1.0)
    assert all(landing.exact for landing in derive(tied).landings), "also where the hit is on the cut itself"
    uneven = do.apply(edit, do.ChangeCue(cue="b-11", time=6.3))  # 12 frames before the cut, 30 after it
    half = Length(count=0.5, unit="beats")
    fast = frames_shown(do.apply(uneven, do.RunThrough(cuts=cuts[:1], length=half, speed=4))).speed > 3.9
    at = uneven.frame_of("b-12") - shown.first
    assert (fast[:at].sum(), fast[at:].sum()) == (6, 15)
    moved = do.apply(run, do.ChangeCue(cue="b-12", time=6.6))
    assert frames_shown(moved).speed[moved.frame_of("b-12") - shown.first - 1] == pytest.approx(4.0)


@pytest.mark.parametrize(("beat", "drop", "begin"), [(0.5, 32, 0.5), (0.43, 48, 1.1), (0.6, 24, 0.2)])
def test_another_song_takes_over_by_musical_role_and_the_way_back_gives_the_first_edit(beat, drop, begin):
    edit = filled(cues=["b-24", "b-28", "drop", "b-36", "b-37"])
    other = song_of(beat, drop, 100, begin)
    rows = carry(edit, other)
    assert [row.to for row in rows] == [
        f"b-{drop - 8}",
        f"b-{drop - 4}",
        "drop",
        f"b-{drop + 4}",
        f"b-{drop + 5}",
    ]
    assert all(row.sure > 0.99 for row in rows)
    assert [sorted(row.holds) for row in rows] == [
        ["a cut", "impact at frame 200"], *[["a cut", "impact at frame 200"]] * 3, ["a cut"],
    ]  # fmt: skip
    assert [row.place for row in rows] == pytest.approx([row.to_time for row in rows], abs=1e-4)
    to = {row.cue: row.to for row in rows}
    changed = do.apply(edit, do.ChangeSong(song=other, to=to))
    assert all(landing.exact for landing in derive(changed).landings)
    assert derive(changed).loose == []
    starts = [solve(changed, clip).first for clip in changed.clips]
    assert starts == [changed.frame_of(to[cue]) for cue in ("b-24", "b-28", "drop", "b-36")]
    back = do.ChangeSong(song=edit.song, to={row.cue: row.to for row in carry(changed, edit.song)})
    assert do.apply(changed, back) == edit


def test_what_lies_about_the_second_of_two_drops_goes_to_the_second_of_the_other_songs():
    """They lie 48 beats apart, in the other song 16; a weaker one between them has no match there."""
    edit = filled(cues=["b-20", "b-30", "b-66"])
    drops = [(16, 1.0), (48, 0.6), (64, 0.9)]
    edit = with_(edit, song=with_drops(song_of(beats=90), drops))
    rows = carry(edit, with_drops(song_of(0.4, beats=90), [(20, 0.5), (36, 0.5)]))
    assert [(row.cue, row.to) for row in rows] == [("b-20", "b-24"), ("b-30", "b-34"), ("b-66", "b-38")]


@pytest.mark.parametrize("off", [-0.1, 0.0, 0.1])
def test_a_drop_and_its_downbeat_go_together(off):
    """A drop is heard a few ms after its downbeat; in the other song it may be off by part of a beat."""
    edit = filled(["b-28", "b-32", "b-36"], drop_moved(song_of(), 0.003))
    edit = do.apply(edit, do.ChangeTie(clip="clip-2", pin="tie", cue="drop"))
    rows = {row.cue: row for row in carry(edit, drop_moved(song_of(0.4, drop=24), off))}
    assert rows["drop"].to == "drop"
    assert rows["b-32"].to == ("b-24" if off == 0 else "drop")
    assert [rows[cue].to for cue in ("b-28", "b-36")] == ["b-20", "b-28"]


def drop_moved(song: Song, by: float) -> Song:
    """The song with its drop later by some seconds."""
    moved = with_(song.by_id["drop"], time=song.by_id["drop"].time + by)
    return with_(song, cues=[moved if cue.id == "drop" else cue for cue in song.cues])


def with_drops(song: Song, drops: list[tuple[int, float]]) -> Song:
    """The song with drops on these beats, each with a strength, and no others."""
    beats = [cue for cue in song.cues if cue.kind != "drop"]
    found = [
        Cue(id=f"drop-{beat}", time=beats[beat].time, kind="drop", strength=strength)
        for beat, strength in drops
    ]
    return with_(song, cues=(*beats, *found))


def test_a_song_without_that_part_leaves_ties_loose_and_says_so():
    edit = filled(cues=["b-4", "b-8", "b-70", "b-74"])
    short = song_of(BEAT, 12, 20)
    rows = {row.cue: row for row in carry(edit, short)}
    assert rows["b-70"].to is None
    changed = do.apply(edit, do.ChangeSong(song=short, to={cue: row.to for cue, row in rows.items()}))
    assert any(trouble.kind == "loose" for trouble in montage(changed, derive(changed)).troubles)
    late = do.apply(edit, do.PlaceSong(start=0.5))
    told = do.apply(late, changed_to(short, rows.values()))
    begins = -rows["b-4"].place  # Two clips lie before the other song; it waits for them.
    assert (told.song.start, begins > 0.5) == (begins, True)
    assert solve(told, told.clips[0]).first == 0
    assert all(
        pin.n == round(pin.loose * 60) for clip in told.clips for pin in clip.pins if pin.loose is not None
    )
    assert {tie.was for tie in derive(told).loose} <= {row.place + begins for row in rows.values()}


def changed_to(song: Song, rows) -> do.Command:
    """What the whole table comes to."""
    return do.ChangeSong(
        song=song, to={row.cue: row.to for row in rows}, places={row.cue: row.place for row in rows}
    )


songs = st.builds(
    lambda beat, beats, begin, drops: with_drops(
        song_of(beat, 0, beats, begin), [(drop, 0.5) for drop in drops if drop < beats]
    ),
    st.floats(0.3, 0.9),
    st.integers(5, 60),
    st.floats(0, 4),
    st.lists(st.integers(0, 29), max_size=3, unique=True),
)


@given(
    st.lists(st.integers(0, 79), min_size=3, max_size=7, unique=True),
    st.lists(st.integers(0, 79), max_size=3, unique=True),
    st.lists(songs, min_size=1, max_size=3),
    st.sampled_from(["cut", "inside", "begin", "stretch"]),
)
def test_songs_can_take_over_one_after_another_and_no_clip_ends_before_it_begins(cues, drops, others, how):
    song = with_drops(song_of(), [(drop, 0.5) for drop in drops])
    edit = filled([f"b-{cue}" for cue in sorted(cues)], song, how=how)
    for other in others:
        rows = carry(edit, other)
        places = [row.place for row in rows]
        assert places == sorted(places)
        assert all(row.to is None or row.place == row.to_time for row in rows)
        edit = do.apply(edit, changed_to(other, rows))
        assert all(curve.first >= 0 for curve in (solve(edit, clip) for clip in edit.clips))


@pytest.mark.parametrize("by", [-25, 40])
def test_a_clip_that_slides_is_met_by_those_beside_it(by):
    edit = filled(how="inside")
    free = [with_(pin, cue=None, n=edit.frame_of(pin.cue)) if pin.cue else pin for pin in edit.clips[1].pins]
    since, until = (Pin(id=end, n=edit.frame_of(cue)) for end, cue in (("since", "b-12"), ("until", "b-16")))
    slid = with_(edit.clips[1], pins=free, since=since, until=until)
    edit = with_(edit, clips=(edit.clips[0], slid, *edit.clips[2:]))
    after = do.apply(edit, do.SlideClip(clip="clip-2", by=by))
    before, now = ([*map(frames_shown(each).request, range(0, 480))] for each in (edit, after))
    first = frames_shown(edit).first
    begin, end = edit.frame_of("b-12") - first, edit.frame_of("b-16") - first
    assert [request.clip for request in now[: end + by + 1]] == (
        ["clip-1"] * (begin + by) + ["clip-2"] * (end - begin) + ["clip-3"]
    )
    moved = [(request.clip, request.picture) for request in now[begin + by : end + by]]
    assert moved == [(request.clip, request.picture) for request in before[begin:end]]


def test_cuts_are_told_with_the_way_the_movement_takes_and_what_needs_a_look():
    edit = filled()
    right, left = (drift(np.full(600, dx)) for dx in (3, -3))
    found = montage(edit, derive(edit), {"take-0": right, "take-1": left, "take-2": left})
    assert [(cut.before, cut.after, cut.cue, cut.way) for cut in found.cuts] == [
        ("clip-1", "clip-2", "b-12", "turns"),
        ("clip-2", "clip-3", "b-16", "goes on"),
        ("clip-3", "clip-4", "b-20", "turns"),
    ]
    assert [trouble.kind for trouble in found.troubles] == ["turn", "turn"]
    gap = do.apply(edit, do.RemoveClip(clip="clip-2"))
    assert [(trouble.kind, trouble.n) for trouble in montage(gap, derive(gap)).troubles] == [
        ("gap", edit.frame_of("b-12"))
    ]
    closed = do.apply(gap, do.CloseGaps())
    assert montage(closed, derive(closed)).troubles == []
    again = do.apply(edit, do.RepeatSection(clips=["clip-1", "clip-2"], cue="b-40"))
    assert [solve(again, clip).first for clip in again.clips[-2:]] == [
        again.frame_of("b-40"),
        again.frame_of("b-44"),
    ]
    beside = do.apply(edit, do.RepeatSection(clips=["clip-1"], cue="b-42"))
    assert solve(beside, beside.clips[-1]).first == beside.frame_of("b-42"), "a beat does for a downbeat"
    there = do.apply(edit, do.RepeatSection(clips=["clip-1", "clip-2"], cue="b-40", move=True))
    assert [clip.id for clip in there.clips] == [clip.id for clip in edit.clips]
    assert [solve(there, clip).first for clip in there.clips[:2]] == [
        solve(again, clip).first for clip in again.clips[-2:]
    ]
    over = anyway(edit, do.FillSlots(cues=["b-8", "b-24"], shots=[{"take": "take-1"}], how="begin"))
    kinds = {trouble.kind for trouble in montage(over, derive(over)).troubles}
    assert "hidden" in kinds


def test_black_lies_over_all_follows_its_cues_and_softens_a_cut():
    edit = filled(how="inside")
    at = edit.frame_of("b-12")
    tied = next(landing for landing in derive(edit).landings if landing.clip == "clip-2")
    dark = do.apply(edit, do.AddBlack(since=at, until="b-14"))
    shown = frames_shown(dark)
    assert {shown.request(n - shown.first).clip for n in range(at, at + 60)} == {None}
    assert shown.request(at - 1 - shown.first).clip == "clip-1"
    hidden = next(landing for landing in derive(dark).landings if landing.clip == "clip-2")
    assert (tied.exact, hidden.exact, hidden.hidden_by) == (True, False, "black")
    assert [each.kind for each in montage(dark, derive(dark)).troubles] == ["hidden tie"]
    moved = do.apply(dark, do.ChangeCue(cue="b-14", time=7.6))
    assert moved.frames_in(moved.blacks[0]).stop == at + 66
    two = do.apply(dark, do.AddBlack(since=at + 200, until=at + 230))
    late = do.apply(two, do.ChangeBlack(black="black-2", since=at + 210, until="b-20"))
    assert [late.frames_in(black) for black in late.blacks] == [
        two.frames_in(two.blacks[0]),
        range(at + 210, at + 240),
    ]
    assert do.apply(late, do.RemoveBlack(black="black-2")) == dark
    for command in (do.ChangeBlack(black="black-9", since=0, until=9), do.RemoveBlack(black="black-9")):
        with pytest.raises(Refusal, match="no black"):
            do.apply(two, command)
    assert (
        frames_shown(do.apply(dark, do.RemoveBlack(black="black-1"))).clip.tolist()
        == frames_shown(edit).clip.tolist()
    )
    right, left = (drift(np.full(600, dx)) for dx in (3, -3))
    drifts = {"take-0": right, "take-1": left, "take-2": left}
    blink = do.apply(edit, do.AddBlack(since=at - 2, until=at + 2))
    found = montage(blink, derive(blink), drifts)
    assert [(cut.way, cut.softened) for cut in found.cuts] == [
        ("turns", True),
        ("goes on", False),
        ("turns", False),
    ]
    assert [each.kind for each in found.troubles] == ["turn"]
    with pytest.raises(Refusal, match="end where it begins"):
        do.apply(edit, do.AddBlack(since=at, until=at))
    slots = do.FillSlots(cues=["b-32", "b-36", "b-40"], shots=[{"take": "take-0"}, {}])
    kept = do.apply(edit, slots)
    assert (len(kept.clips), kept.blacks[0].since.cue, kept.blacks[0].until.cue) == (5, "b-36", "b-40")


def test_a_range_is_what_is_exported_and_tidied_and_follows_its_cues():
    edit = filled()
    ranged = do.apply(edit, do.SetRange(since="b-12", until="b-20"))
    whole, part = frames_shown(edit), frames_exported(ranged)
    begin = edit.frame_of("b-12")
    assert (part.first, len(part)) == (begin, edit.frame_of("b-20") - begin)
    assert [part.request(i) for i in range(len(part))] == [
        whole.request(begin - whole.first + i) for i in range(len(part))
    ]
    later = do.apply(ranged, do.PlaceSong(start=0.5))
    assert frames_exported(later).first == begin + 30
    slow = do.apply(ranged, do.Configure(rate="30"))
    assert frames_exported(slow).first == begin // 2
    gaps = do.apply(do.apply(ranged, do.RemoveClip(clip="clip-2")), do.RemoveClip(clip="clip-4"))
    gaps = do.apply(gaps, do.FillSlots(cues=["b-26", "b-30"], shots=[{"take": "take-0"}]))
    closed = do.apply(gaps, do.CloseGaps())
    assert [each.n for each in montage(closed, derive(closed)).troubles if each.kind == "gap"] == [
        edit.frame_of("b-20")
    ]
    assert frames_exported(do.apply(ranged, do.ClearRange())).clip.tolist() == whole.clip.tolist()


@pytest.mark.parametrize("tied", [False, True])
def test_a_beginning_is_found_that_goes_on_and_ties_still_land(tied):
    """One stretch of the next take moves as the last one did, in way, pace and place."""
    edit = filled(how="inside" if tied else "begin")
    goes = drift(np.full(600, 2.0), np.full(600, 1.0), np.full(600, 0.8), np.full(600, 0.3))
    dx, dy, across = np.full(600, -2.0), np.full(600, 0.5), np.full(600, 0.2)
    good = slice(120, 160)
    dx[good], dy[good], across[good] = 2.0, 1.0, 0.8
    other = drift(dx, dy, across, np.full(600, 0.3))
    found = beginnings(edit, "clip-1", "clip-2", {"take-0": goes, "take-1": other})
    assert 115 <= found[0].frame < 160
    assert found[0].degrees < 1
    assert found[0].apart < 0.05
    assert [each.score for each in found] == sorted((each.score for each in found), reverse=True)
    done = do.apply(edit, do.ContinueCut(clip="clip-2", frame=found[0].frame))
    curve = solve(done, done.clip("clip-2"))
    assert (curve.first, curve.shown[0]) == (edit.frame_of("b-12"), found[0].frame)
    assert all(landing.exact for landing in derive(done).landings)
    assert len(derive(done).landings) == len(derive(edit).landings)
    blink = do.apply(edit, do.AddBlack(since=edit.frame_of("b-12") - 4, until="b-12"))
    assert beginnings(blink, "clip-1", "clip-2", {"take-0": goes, "take-1": other}) == found
    with pytest.raises(Refusal, match="do not meet"):
        beginnings(edit, "clip-1", "clip-3", {})
    if tied:
        on_cut = filled()
        with pytest.raises(Refusal, match="lands on the cut"):
            do.apply(on_cut, do.ContinueCut(clip="clip-2", frame=10))


@pytest.mark.parametrize(
    ("dx", "dy", "across", "score"),
    [
        (2.0, 0.0, 0.5, 1),
        (2 * np.cos(0.5), 2 * np.sin(0.5), 0.5, np.cos(0.5)),
        (4.0, 0.0, 0.5, 1 - PACE),
        (0.5, 0.0, 0.5, 1 - 2 * PACE),
        (2.0, 0.0, 0.75, 1 - 0.25 * PLACE),
        (-4.0, 0.0, 0.25, -1 - PACE - 0.25 * PLACE),
    ],
)
def test_beginnings_are_rated_by_way_pace_and_place(dx, dy, across, score):
    edit = filled(how="begin")
    goes = {"take-0": drift(np.full(600, 2.0))}
    other = drift(np.full(600, dx), np.full(600, dy), np.full(600, across))
    found = beginnings(edit, "clip-1", "clip-2", {**goes, "take-1": other})
    assert [each.score for each in found] == pytest.approx([score] * 4, abs=1e-5)
    assert found[0].degrees == pytest.approx(np.degrees(np.arctan2(dy, dx)), abs=1e-3)
    assert found[0].pace == pytest.approx(np.hypot(dx, dy) / 2)
    assert found[0].apart == pytest.approx(abs(across - 0.5), abs=1e-6)


def test_a_beginning_after_a_clip_that_stands_still_is_taken_at_real_time():
    """Without a tie ahead a clip runs on as fast as it began, or in real time where it stood."""
    edit = filled(how="begin")
    still = do.apply(edit, do.ShapeSpan(clip="clip-2", span=1, shape=Swell(strength=1, speed=1)))
    assert solve(still, still.clip("clip-2")).speed[0] == 0
    goes, other = drift(np.full(600, 2.0)), drift(np.full(600, 2.0))
    for each in (edit, still):
        found = beginnings(each, "clip-1", "clip-2", {"take-0": goes, "take-1": other})
        assert found[0].pace == pytest.approx(1.0)


def test_an_open_end_stays_where_it_stood_when_the_span_to_it_alternates():
    edit = do.apply(tied_edit([(4.0, 300)]), do.LayTake(take="gannet", moment="moment-0", cue="cue-0"))
    for time in (6.0, 8.0, 10.0):
        edit = do.apply(edit, do.AddCue(time=time, kind="kick"))
    cues = [cue.id for cue in edit.song.cues if cue.time > 5]
    was = solve(edit, edit.clips[0])
    after = do.apply(edit, do.Alternate(clip="clip-1", cues=cues, ratio=2))
    curve = solve(after, after.clips[0])
    assert (curve.first, curve.last) == (was.first, was.last)
    assert (curve.source[0], curve.source[-1]) == pytest.approx((was.source[0], was.source[-1]))
    assert all(landing.exact for landing in derive(after).landings)


def test_a_clip_alternates_from_action_to_action_and_its_tie_stays():
    edit = filled()
    for frame in (120, 160, 260):
        edit = do.apply(edit, do.AddMoment(take="take-0", frame=frame))
    whole = edit.clip("clip-1").model_copy(update={"since": None, "until": None})
    edit = edit.model_copy(update={"clips": (whole,)})
    after = do.apply(edit, do.AlternateMoments(clip="clip-1", slow=0.5, fast=2))
    curve = solve(after, after.clips[0])
    inner = [(pin.p, pin.n) for pin, at in zip(curve.pins, after.clips[0].pins, strict=True) if at.moment]
    assert [p for p, _ in inner] == [120, 160, 200, 260, 300]
    assert np.diff([n for _, n in inner]).tolist() == [80, 20, 120, 20]
    assert [landing.exact for landing in derive(after).landings] == [True]
    with pytest.raises(Refusal, match="moments"):
        do.apply(filled(how="begin"), do.AlternateMoments(clip="clip-1"))


def test_slots_are_filled_with_a_recipe_and_what_lies_under_another_clip_is_told():
    plain, retimed = filled(), filled(recipe="hang-in-the-air")
    assert [clip.recipe for clip in retimed.clips] == ["hang-in-the-air"] * 4
    assert all(landing.exact for landing in derive(retimed).landings)
    starts = [[solve(edit, clip).first for clip in edit.clips] for edit in (plain, retimed)]
    assert starts[0] == starts[1]
    half = do.FillSlots(cues=["b-14", "b-22"], shots=[{"take": "take-1"}], how="begin")
    over = anyway(plain, half)
    told = [(each.kind, each.clip, each.what) for each in montage(over, derive(over)).troubles]
    assert ("overlap", "clip-2", "60 frames under a later clip") in told
    assert ("hidden", "clip-3", "hidden by later clips") in told


def short_of_its_slot() -> Edit:
    """Two clips that meet, of which the first is cut only after its shot has ended."""
    base = empty(2, frames=320)
    takes = [with_(take, moments=[Moment(id="hit", frame=280)]) for take in base.takes]
    shots = [{"take": "take-0"}, {"take": "take-1"}]
    edit = do.apply(with_(base, takes=takes), do.FillSlots(cues=["b-8", "b-12", "b-16"], shots=shots))
    end = solve(edit, edit.clips[0]).last + 1
    assert end < edit.frame_of("b-12")
    two = with_(
        edit.clips[1],
        since=None,
        pins=[Pin(id="a", n=end, p=10), Pin(id="b", n=end + 90, p=100)],
        spans=[Steady()],
    )
    return with_(edit, clips=[edit.clips[0], with_(two, until=None)])


@pytest.mark.parametrize(
    "command",
    [
        do.RunThrough(cuts=[("clip-1", "clip-2")], length=Length(count=10), speed=2),
        do.ContinueCut(clip="clip-2", frame=40),
    ],
)
def test_what_works_at_a_cut_works_where_the_shot_is_shorter_than_its_slot(command):
    edit = short_of_its_slot()
    after = anyway(edit, command)
    assert all(landing.exact for landing in derive(after).landings)


@pytest.mark.parametrize("how", ["cut", "inside", "begin", "end", "stretch"])
def test_slots_that_begin_before_the_first_frame_are_filled_or_refused_as_that(how):
    base = empty()
    early = with_(base, song=with_(base.song, start=-4.5))
    command = do.FillSlots(cues=["b-2", "b-8", "b-12"], shots=[{"take": "take-0"}], how=how)
    with pytest.raises(Refusal, match=r"before the start of the music|Nothing of this clip is left"):
        do.apply(early, command)


@pytest.mark.parametrize(("by", "let_go"), [(30, False), (-30, False), (7, False), (7, True)])
def test_a_slid_clip_takes_its_cuts_along_from_cue_to_cue_or_says_which_holds_it(by, let_go):
    """Three pieces cut on beats, 30 frames apart: the middle one slides with what it shows."""
    base = with_(empty(), clips=[])
    pins = [Pin(id="a", n=270, p=10), Pin(id="b", n=630, p=370)]
    whole = with_(base, clips=[Clip(id="clip-1", take="take-0", pins=pins, spans=[Steady()])])
    edit = do.apply(whole, do.SplitClip(clip="clip-1", cues=["b-12", "b-16"]))
    middle = edit.clip("clip-2")
    assert middle.since.cue == "b-12"
    command = do.SlideClip(clip="clip-2", by=by, let_go=let_go)
    if by % 30 and not let_go:
        with pytest.raises(
            Refusal, match=r"cut on the downbeat at .* and no cue lies 7 frames from it"
        ) as refused:
            do.apply(edit, command)
        offers = repairs(edit, command, refused.value)
        assert [offer.label for offer in offers] == [
            "Slide it 30 frames later, to a cue",
            "Detach its cuts from their cues",
        ]
        return
    slid = do.apply(edit, command)
    was, now = solve(edit, middle), solve(slid, slid.clip("clip-2"))
    assert (now.first, now.last) == (was.first + by, was.last + by)
    assert now.shown.tolist() == was.shown.tolist()
    stretches = [(id, len(frames)) for id, frames in frames_shown(slid).stretches()]
    assert stretches == [("clip-1", 120 + by), ("clip-2", 120), ("clip-3", 121 - by)]
    assert (slid.clip("clip-2").since.cue is None) == let_go
    assert slid.clip("clip-1").until.cue == slid.clip("clip-2").since.cue


@given(st.integers(-80, 80), st.booleans(), st.integers(0, 40))
def test_a_slip_never_bends_anew_what_is_seen_without_a_word(by, at_start, short):
    """A dip with an open end, held at its other one: each picture moves by so many, or it is refused."""
    edge = Pin(id="edge", p=60 - short if at_start else 500 + short)
    held = Pin(id="held", n=400 if at_start else 100, p=300 if at_start else 200)
    pins = [edge, held] if at_start else [held, edge]
    clip = Clip(id="clip-1", take="take-0", pins=pins, spans=[Dip(strength=0.6, speed=1.0)])
    edit = with_(empty(1, frames=541), clips=[clip])
    command = do.SlipClip(clip="clip-1", by=by)
    room = range(-(60 - short), 541) if at_start else range(-500, 541 - (500 + short))
    if by not in room:
        with pytest.raises(Refusal, match="it would change") as refused:
            do.apply(edit, command)
        labels = [offer.label for offer in repairs(edit, command, refused.value)]
        assert "Slip it, and let its curve change" in labels
        command = do.SlipClip(clip="clip-1", by=int(refused.value.nearest))
    slipped = do.apply(edit, command)
    was, now = solve(edit, clip), solve(slipped, slipped.clips[0])
    assert now.source == pytest.approx(was.source + command.by, abs=1e-6)
    assert (now.first, now.last) == (was.first, was.last)


@given(st.sampled_from(["24", "25", "30", "50"]), st.integers(2, 30), st.floats(0.2, 0.45))
def test_what_stutters_is_told_by_its_cause_and_mended_at_once(rate, count, speed):
    edit = rates_met(rate, count, speed)
    derived = derive(edit)
    found = montage(edit, derived)
    groups = grouped(edit, derived, found.troubles)
    assert sum(len(group.troubles) for group in groups) == len(found.troubles)
    assert len(groups) <= 3
    for group in groups:
        for mend in group.mends:
            mended = edit
            for command in mend.commands:
                mended = do.apply(mended, command)
            after = derive(mended)
            assert all(landing.exact for landing in after.landings), mend.label
            clips = {each.clip for each in group.troubles}
            left = sum(each.smoothness.repeats for each in after.clips if each.id in clips)
            assert left < sum(each.smoothness.repeats for each in derived.clips if each.id in clips), (
                mend.label
            )


def test_a_take_that_holds_some_frames_longer_is_not_said_to_be_slowed():
    edit = rates_met("24", 4, 1.0)
    quick = edit.takes[1].model_copy(update={"held": 2})
    edit = edit.model_copy(update={"takes": (edit.takes[0], quick)})
    held = {"quick": TakePictures(np.arange(4000) // 2)}
    derived = derive(edit, held)
    causes = [group.cause for group in grouped(edit, derived, montage(edit, derived).troubles)]
    assert "60 fps, some frames held for 2" in causes


def rates_met(rate: str, count: int, speed: float) -> Edit:
    """An edit of 60 frames a second with clips of a take of that rate, and of a slowed one of 60."""
    takes = tuple(
        Take(
            id=id, media=MEDIA, rate=of, frames=4000, distinct=of, width=64, height=36,
            moments=(Moment(id="hit", frame=1500),),
        )
        for id, of in (("slow", rate), ("quick", "60"))
    )  # fmt: skip
    cues = tuple(Cue(id=f"cue-{i}", time=(40 + 90 * i) / 60) for i in range(count))
    clips = tuple(
        Clip(
            id=f"clip-{i}", take="slow" if i % 2 else "quick", spans=(Steady(), Steady(speed=1)),
            pins=(
                Pin(id="a", n=90 * i, p=1500 - 40 * (1 if i % 2 else speed)),
                Pin(id="hit", cue=f"cue-{i}", moment="hit"), Pin(id="b", n=90 * i + 89),
            ),
        )
        for i in range(count)
    )  # fmt: skip
    song = Song(media=MEDIA, duration=300, sample_rate=48000, cues=cues)
    return Edit(rate="60", song=song, takes=takes, clips=clips)


def test_of_what_stutters_only_what_bends_is_bent_less():
    edit = rates_met("24", 4, 0.3)
    (held, bent), rest = edit.clips[:2], edit.clips[2:]
    held = with_(held, spans=(held.spans[0], Hold()), pins=(*held.pins[:2], with_(held.pins[2], p=None)))
    bent = with_(bent, spans=(Dip(), bent.spans[1]))
    edit = with_(edit, clips=(held, bent, *rest))
    derived = derive(edit)
    groups = grouped(edit, derived, montage(edit, derived).troubles)
    assert held.id in {each.clip for group in groups for each in group.troubles if group.kind == "stutter"}
    offers = [mend for group in groups for mend in group.mends if mend.label.startswith("Bend")]
    assert [[command.clip for command in mend.commands] for mend in offers] == [[bent.id]]
    do.apply(edit, offers[0].commands[0])
