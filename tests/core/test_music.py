"""What a person decides about cues holds: selections, beats pinned by hand, new analyses, loose ties."""

from __future__ import annotations

import math
from itertools import combinations, pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from izmet.core.commands import apply
from izmet.core.commands.clips import LayTake
from izmet.core.commands.music import (
    AddCues,
    AnalyseAgain,
    ChangeCue,
    ChangeCues,
    CountBeats,
    MergeCues,
    PinBeat,
    PlaceSong,
    RemoveCues,
    RemoveSelection,
    SaveSelection,
    SetDownbeat,
    SetTempo,
    UseBeats,
    UseSong,
)
from izmet.core.commands.pins import AddTie, ChangeTie, TieLoose
from izmet.core.document.edit import Clip, Cue, CueSelection, Edit, Steady
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from izmet.core.following.workings import derive
from izmet.core.music.comparing import changes, same_cues
from izmet.core.music.counting import beats_of, counted
from izmet.core.music.selection import chosen
from izmet.core.music.tapping import draw_to
from tests.core.examples import edit_of

BEAT = 0.5


def beats(count: int = 16, first: float = 1.0, meter: int = 4) -> list[Cue]:
    return [
        Cue(
            id=f"cue-{i + 1}",
            time=first + i * BEAT,
            kind="downbeat" if i % meter == 0 else "beat",
            strength=0.5 + 0.03 * (i % 10),
            made="auto",
        )
        for i in range(count)
    ]


def laid() -> Edit:
    edit = apply(edit_of(beats(24, first=6)), LayTake(take="take-1", moment="moment-1", cue="cue-1"))
    return apply(edit, AddTie(clip="clip-1", moment="moment-2", cue="cue-9"))


def times(edit: Edit) -> list[float]:
    return [cue.time for cue in beats_of(edit.song.cues)]


class TestSelection:
    @given(st.integers(1, 8), st.integers(0, 7), st.floats(0, 1))
    def test_every_nth_of_the_strong_ones_in_order(self, every, phase, least):
        song = edit_of(beats(20)).song
        rule = CueSelection(
            id="s", name="s", kinds=("beat", "downbeat"), least=least, every=every, phase=phase
        )
        strong = [cue for cue in song.cues if cue.strength >= least]
        assert chosen(song, rule) == strong[phase % every :: every]

    def test_extras_are_in_and_left_out_ones_are_not(self):
        song = edit_of(beats()).song
        rule = CueSelection(
            id="s", name="s", kinds=("downbeat",), begin=2.9, end=6, extra=("cue-2",), without=("cue-9",)
        )
        assert [cue.id for cue in chosen(song, rule)] == ["cue-2", "cue-5"]

    def test_a_kept_selection_forgets_cues_that_go_and_names_are_one_each(self):
        edit = apply(
            edit_of(beats()), SaveSelection(selection=CueSelection(id="s-1", name="Bars", extra=("cue-2",)))
        )
        assert apply(edit, RemoveCues(cues=("cue-2",))).song.selections[0].extra == ()
        both = apply(edit, SaveSelection(selection=CueSelection(id="s-2", name="Hits")))
        left = apply(both, RemoveSelection(selection="s-1")).song.selections
        assert [selection.name for selection in left] == ["Hits"]
        with pytest.raises(Refusal, match="named Bars"):
            apply(edit, SaveSelection(selection=CueSelection(id="s-2", name="Bars")))


class TestBeats:
    @given(st.integers(1, 7), st.integers(0, 15))
    def test_a_bar_begins_where_it_is_said_to(self, meter, index):
        edit = apply(edit_of(beats()), SetDownbeat(cue=f"cue-{index + 1}", meter=meter))
        counted = beats_of(edit.song.cues)
        assert [cue.kind == "downbeat" for cue in counted] == [(i - index) % meter == 0 for i in range(16)]
        assert [cue.id for cue in counted] == [f"cue-{i + 1}" for i in range(16)]

    def test_double_then_half_is_as_before(self):
        before = edit_of(beats())
        doubled = apply(before, CountBeats(how="double"))
        assert times(doubled) == pytest.approx([1 + i * BEAT / 2 for i in range(31)])
        assert [cue.id for cue in beats_of(doubled.song.cues)][::2] == [cue.id for cue in before.song.cues]
        assert times(apply(doubled, CountBeats(how="half"))) == pytest.approx(times(before))

    def test_the_bar_or_the_phase_can_be_moved(self):
        later = apply(edit_of(beats()), CountBeats(how="beat-later"))
        assert [cue.kind for cue in later.song.cues[:5]] == ["beat", "downbeat", "beat", "beat", "beat"]
        off = apply(edit_of(beats()), CountBeats(how="off-beat"))
        assert times(off) == pytest.approx([1.25 + i * BEAT for i in range(15)])

    @given(st.data())
    def test_the_tempo_between_pinned_beats_follows_and_pins_stay(self, data):
        edit = edit_of(beats(24, first=6))
        pins: dict[int, float] = {}
        for _ in range(3):
            index = data.draw(st.integers(0, 23))
            before = beats_of(edit.song.cues)
            low = max((pins[i] for i in pins if i < index), default=before[index].time - 1)
            high = min((pins[i] for i in pins if i > index), default=before[index].time + 1)
            time = low + (high - low) * data.draw(st.floats(0.2, 0.8))
            edit = apply(edit, PinBeat(cue=f"cue-{index + 1}", time=time))
            pins[index] = time
            now = beats_of(edit.song.cues)
            assert [cue.id for cue in now] == [cue.id for cue in before]
            assert all(a.time < b.time for a, b in pairwise(now))
            for pinned, at in pins.items():
                assert now[pinned].time == pytest.approx(at)
                assert now[pinned].made == "hand"

    def test_a_beat_is_not_pinned_past_another_pin(self):
        edit = apply(edit_of(beats()), PinBeat(cue="cue-5", time=3.0))
        with pytest.raises(Refusal, match="past the next beat"):
            apply(edit, PinBeat(cue="cue-4", time=3.2))

    def test_another_reading_keeps_beats_set_by_hand(self):
        edit = apply(edit_of(beats()), PinBeat(cue="cue-3", time=2.05))
        other = apply(edit, UseBeats(times=tuple(1.25 + i for i in range(8)), meter=3, downbeat=1))
        assert 2.05 in times(other)
        assert other.song.meter == 3


class TestTies:
    @pytest.mark.parametrize("start", [-2.0, 0.125, 3.0])
    def test_ties_follow_the_song_when_it_is_moved(self, start):
        edit = apply(laid(), PlaceSong(start=start))
        landings = derive(edit).landings
        assert [landing.wanted_frame for landing in landings] == [
            math.floor((6 + start) * 60 + 0.5),
            math.floor((10 + start) * 60 + 0.5),
        ]
        assert all(landing.exact for landing in landings)

    def test_a_tie_whose_cue_is_deleted_stays_loose_and_is_offered_the_nearest(self):
        edit = apply(laid(), RemoveCues(cues=("cue-9",)))
        pin = next(pin for pin in edit.clips[0].pins if pin.moment == "moment-2")
        assert (pin.n, pin.cue, pin.loose) == (600, None, 10.0)
        loose = derive(edit).loose
        assert [(tie.pin, tie.proposed) for tie in loose] == [(pin.id, "cue-8")]
        again = apply(edit, ChangeTie(clip="clip-1", pin=pin.id, cue="cue-8"))
        assert derive(again).loose == []

    def test_a_clip_that_lost_all_its_cues_is_offered_others(self):
        edit = laid()
        gone = tuple(pin.cue for pin in edit.clips[0].pins if pin.cue)
        loose = derive(apply(edit, RemoveCues(cues=gone))).loose
        assert [tie.was for tie in loose] == [6.0, 10.0]
        assert all(tie.proposed for tie in loose)

    @given(
        times=st.lists(st.floats(0, 29), max_size=12),
        kinds=st.lists(st.sampled_from(["hand", "kick", "hat"]), min_size=12, max_size=12),
    )
    def test_what_is_proposed_to_several_loose_ties_fits_together(self, times, kinds):
        cues = [Cue(id=f"cue-{50 + i}", time=t, kind=kinds[i]) for i, t in enumerate(sorted(times))]
        edit = apply(laid(), UseSong(song=edit_of(cues).song))
        lost = derive(edit).loose
        assert all(tie.was in (6.0, 10.0) for tie in lost)
        proposed = [edit.frame_of(tie.proposed) for tie in lost if tie.proposed]
        assert proposed == sorted(set(proposed))
        assert all(edit.cue(tie.proposed).kind != "hat" for tie in lost if tie.proposed)
        tied = derive(apply(edit, TieLoose()))
        assert len(tied.loose) == len(lost) - len(proposed)
        assert all(landing.exact for landing in tied.landings)

    def test_a_typed_tempo_counts_the_whole_song_through_the_beat_at_hand(self):
        edit = edit_of(counted(beats(12, first=2.0), 4, 1))
        at = edit.song.cues[6]
        after = apply(edit, SetTempo(tempo=150, cue=at.id))
        found = beats_of(after.song.cues)
        assert [cue.time for cue in found] == pytest.approx(
            [at.time % 0.4 + 0.4 * i for i in range(len(found))]
        )
        assert found[-1].time > after.song.duration - 0.4
        here = min(range(len(found)), key=lambda i: abs(found[i].time - at.time))
        bars = [i for i, cue in enumerate(found) if cue.kind == "downbeat"]
        assert (here - bars[0]) % 4 == (6 - 1) % 4, "it stays the same beat of its bar"
        with pytest.raises(ValidationError):
            SetTempo(tempo=5, cue=at.id)

    def test_one_beat_earlier_undoes_one_beat_later(self):
        edit = edit_of(counted(beats(12), 4, 1))
        later = apply(edit, CountBeats(how="beat-later"))
        assert [cue.kind for cue in later.song.cues].index("downbeat") == 2
        assert apply(later, CountBeats(how="beat-earlier")) == edit

    @given(
        was=st.lists(st.floats(0, 29), min_size=1, max_size=5, unique=True),
        times=st.lists(st.integers(0, 1740), max_size=7, unique=True),
    )
    def test_loose_ties_of_several_clips_never_share_a_cue_and_move_the_least(self, was, times):
        """Compared with trying every way there is."""
        frames = sorted({round(each * 60) for each in was})
        edit = edit_of([Cue(id=f"cue-{i}", time=n / 60, kind="beat") for i, n in enumerate(sorted(times))])
        clips = [
            Clip(
                id=f"clip-{i}",
                take="take-1",
                pins=[Pin(id="a", n=n, moment="moment-1", loose=n / 60), Pin(id="b", p=310)],
                spans=[Steady(speed=1)],
            )
            for i, n in enumerate(frames)
        ]
        lost = derive(edit.model_copy(update={"clips": tuple(clips)})).loose
        proposed = [tie.proposed and edit.frame_of(tie.proposed) for tie in lost]
        taken = [n for n in proposed if n is not None]
        assert taken == sorted(set(taken))
        assert len(taken) == min(len(frames), len(times))
        apart = sum(abs(n - was) for n, was in zip(proposed, frames, strict=True) if n is not None)
        ways = (
            sum(abs(n - was) for n, was in zip(cues, ties, strict=True))
            for cues in combinations(sorted(times), len(taken))
            for ties in combinations(frames, len(taken))
        )
        assert apart == min(ways)

    def test_on_one_frame_the_cue_that_is_meant_is_proposed(self):
        kinds = ["bass", "beat", "drop", "hand", "kick"]
        edit = edit_of([Cue(id=kind, time=10.0 + i / 1000, kind=kind) for i, kind in enumerate(kinds)])
        pins = [Pin(id="a", n=606, moment="moment-1", loose=10.1), Pin(id="b", p=310)]
        clip = Clip(id="clip-1", take="take-1", pins=pins, spans=[Steady(speed=1)])
        (tie,) = derive(edit.model_copy(update={"clips": (clip,)})).loose
        assert tie.proposed == "drop"

    def test_ties_find_their_cues_in_another_song(self):
        other = edit_of(
            [cue.model_copy(update={"id": f"cue-{50 + i}"}) for i, cue in enumerate(beats(5, first=6.01))]
        )
        edit = apply(laid(), UseSong(song=other.song))
        first, second = (pin for pin in edit.clips[0].pins if pin.moment)
        assert first.cue == "cue-50"
        assert second.cue is None
        assert second.loose == 10.0


class TestNewAnalysis:
    def test_marks_by_hand_stay_ids_follow_and_struck_cues_do_not_come_back(self):
        edit = apply(laid(), ChangeCue(cue="cue-2", time=6.62))
        edit = apply(edit, RemoveCues(cues=("cue-4",)))
        found = [
            cue.model_copy(update={"id": f"cue-{i + 100}", "time": cue.time + 0.004})
            for i, cue in enumerate(beats(24, first=6))
        ]
        told = changes(edit.song, found)
        after = apply(edit, AnalyseAgain(cues=tuple(found)))
        by_id = after.song.by_id
        assert by_id["cue-1"].time == pytest.approx(6.004)
        assert by_id["cue-2"].time == 6.62
        assert "cue-4" not in by_id
        assert not any(abs(cue.time - 7.504) < 0.01 for cue in after.song.cues)
        assert all(landing.exact for landing in derive(after).landings)
        assert len(told.moved) == 22
        # the beat that was moved by hand is heard again where it was found
        assert [cue.time for cue in told.added] == [pytest.approx(6.504)]

    def test_nothing_changes_when_the_same_is_found(self):
        song = edit_of(beats()).song
        told = changes(song, beats())
        assert (told.added, told.removed, told.moved, told.kept) == ([], [], [], 16)

    @given(st.lists(st.floats(0, 20), max_size=30), st.lists(st.floats(0, 20), max_size=30))
    def test_cues_are_matched_one_to_one(self, old, new):
        def cues(found: list[float], prefix: str) -> list[Cue]:
            return [Cue(id=f"{prefix}-{i}", time=time) for i, time in enumerate(found)]

        same = same_cues(cues(old, "old"), cues(new, "new"))
        assert len(set(same.values())) == len(same)
        for new_id, old_id in same.items():
            assert abs(new[int(new_id[4:])] - old[int(old_id[4:])]) <= 0.03


class TestManyCues:
    def test_they_move_and_change_kind_together(self):
        edit = apply(edit_of(beats()), ChangeCues(cues=("cue-1", "cue-3"), by=-0.25, kind="kick"))
        assert [(cue.time, cue.kind) for cue in edit.song.cues[:3]] == [
            (0.75, "kick"),
            (1.5, "beat"),
            (1.75, "kick"),
        ]

    def test_doubles_merge_into_the_strongest_and_ties_follow(self):
        edit = apply(laid(), AddCues(cues=((6.03, "downbeat", 1.0), (20.0, "hand", 1.0))))
        merged = apply(edit, MergeCues(cues=tuple(cue.id for cue in edit.song.cues), within=0.05))
        assert len(merged.song.cues) == len(edit.song.cues) - 1
        assert merged.clips[0].pins[1].cue == "cue-25"
        with pytest.raises(Refusal, match="No two"):
            apply(merged, MergeCues(cues=("cue-2", "cue-3")))

    def test_a_tapped_pass_replaces_only_its_own_kind_in_its_stretch(self):
        edit = apply(
            edit_of([*beats(), Cue(id="cue-90", time=2.2, kind="kick")]),
            AddCues(cues=((2.0, "beat", 1.0), (2.4, "beat", 1.0)), replace=(1.6, 2.9)),
        )
        assert [(cue.time, cue.kind) for cue in edit.song.cues if 1.6 <= cue.time < 3] == [
            (2.0, "beat"),
            (2.2, "kick"),
            (2.4, "beat"),
        ]

    def test_taps_are_drawn_to_the_nearest_attack_within_reach(self):
        assert draw_to([1.02, 2.5, 3.04], [1.0, 1.05, 3.0], 0.05) == [1.0, 2.5, 3.0]
