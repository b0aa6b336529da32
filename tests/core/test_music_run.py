"""Whatever is done to the music, in whatever order: cues stay in order, ties hold, what hands did stays."""

from __future__ import annotations

import json

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from izmet.core import commands as act
from izmet.core.document.edit import Cue, Edit, parse_edit
from izmet.core.document.refusal import Refusal
from izmet.core.following.workings import derive
from izmet.core.music.counting import beats_of
from tests.core.examples import edit_of

SECONDS = 20.0
BEAT = 0.5
KINDS = ("kick", "snare", "hat", "beat", "downbeat", "hand")
instants = st.floats(0, SECONDS)
kinds = st.sampled_from(KINDS)


def found(offset: float = 0.0) -> list[Cue]:
    """What the machine hears: beats twice a second, a kick just after every other one."""
    beats = [(1 + i * BEAT + offset, "downbeat" if i % 4 == 0 else "beat") for i in range(36)]
    kicks = [(1.002 + i * 2 * BEAT + offset, "kick") for i in range(18)]
    return [
        Cue(id=f"cue-{i + 1}", time=time, kind=kind, made="auto")
        for i, (time, kind) in enumerate(sorted(beats + kicks))
    ]


class MusicRun(RuleBasedStateMachine):
    """Commands about the music on an edit with two ties; those that are refused change nothing."""

    edit: Edit

    @initialize()
    def lay(self) -> None:
        lay = act.LayTake(take="take-1", moment="moment-1", cue="cue-19")
        edit = act.apply(edit_of(found(), duration=SECONDS), lay)
        self.edit = act.apply(edit, act.AddTie(clip="clip-1", moment="moment-2", cue="cue-31"))

    def do(self, command: act.Command) -> bool:
        try:
            self.edit = act.apply(self.edit, command)
        except Refusal:
            return False
        return True

    def some(self, data: st.DataObject, count: int = 1) -> tuple[str, ...]:
        ids = [cue.id for cue in self.edit.song.cues]
        return tuple(data.draw(st.lists(st.sampled_from(ids), min_size=1, max_size=count, unique=True)))

    def by_hand(self) -> dict[str, tuple[float, str]]:
        return {cue.id: (cue.time, cue.kind) for cue in self.edit.song.cues if cue.made == "hand"}

    @rule(time=instants, kind=kinds)
    def set_one(self, time, kind):
        self.do(act.AddCue(time=time, kind=kind))

    @rule(taps=st.lists(instants, min_size=1, max_size=6), kind=kinds, replace=st.booleans())
    def tap_along(self, taps, kind, replace):
        stretch = (min(taps), max(taps)) if replace else None
        self.do(act.AddCues(cues=tuple((time, kind, 1.0) for time in sorted(taps)), replace=stretch))
        if replace:
            inside = [c for c in self.edit.song.cues if c.kind == kind and stretch[0] <= c.time <= stretch[1]]
            assert sorted(cue.time for cue in inside) == sorted(taps)

    @rule(data=st.data(), time=instants)
    def move_one(self, data, time):
        self.do(act.ChangeCue(cue=self.some(data)[0], time=time))

    @rule(data=st.data(), by=st.floats(-0.2, 0.2), kind=st.none() | kinds)
    def move_many(self, data, by, kind):
        self.do(act.ChangeCues(cues=self.some(data, 8), by=by, kind=kind))

    @rule(data=st.data())
    def delete(self, data):
        gone = self.some(data, 5)
        if self.do(act.RemoveCues(cues=gone)):
            assert not self.edit.song.by_id.keys() & set(gone)

    @rule(within=st.floats(0.01, 0.6))
    def merge_doubles(self, within):
        hands = self.by_hand()
        ids = tuple(cue.id for cue in self.edit.song.cues)
        if self.do(act.MergeCues(cues=ids, within=within)):
            assert len(self.edit.song.cues) < len(ids)
            # Of a machine's mark and a hand's, the hand's stays.
            lost = {kind for id, (_, kind) in hands.items() if id not in self.edit.song.by_id}
            assert lost <= {kind for _, kind in self.by_hand().values()}

    @rule(data=st.data(), meter=st.none() | st.integers(1, 7))
    def begin_a_bar(self, data, meter):
        cue = self.some(data)[0]
        if self.do(act.SetDownbeat(cue=cue, meter=meter)):
            assert self.edit.song.by_id[cue].kind == "downbeat"

    @rule(how=st.sampled_from(["double", "half", "beat-later", "off-beat"]))
    def count(self, how):
        self.do(act.CountBeats(how=how))

    @rule(data=st.data(), time=instants)
    def pin(self, data, time):
        cue = self.some(data)[0]
        pinned = {id: at for id, (at, kind) in self.by_hand().items() if kind in ("beat", "downbeat")}
        if self.do(act.PinBeat(cue=cue, time=time)):
            assert self.edit.song.by_id[cue].time == time
            for id, at in pinned.items():
                assert id == cue or self.edit.song.by_id[id].time == at

    @rule(first=st.floats(0, 2), length=st.floats(0.3, 1.2), meter=st.integers(2, 5))
    def read_another_way(self, first, length, meter):
        times = tuple(first + i * length for i in range(int((SECONDS - first) / length)))
        hands = {at for at, kind in self.by_hand().values() if kind in ("beat", "downbeat")}
        if self.do(act.UseBeats(times=times, meter=meter)):
            assert hands <= {beat.time for beat in beats_of(self.edit.song.cues) if beat.made == "hand"}

    @rule(offset=st.sampled_from([0.0, 0.004, 0.25]))
    def listen_anew(self, offset):
        hands, struck = self.by_hand(), self.edit.song.struck
        self.do(act.AnalyseAgain(cues=tuple(found(offset))))
        assert hands.items() <= self.by_hand().items()
        for cue in struck:
            back = [c for c in self.edit.song.cues if c.kind == cue.kind and c.made == "auto"]
            assert all(abs(c.time - cue.time) > 1e-9 for c in back)

    @rule(start=st.floats(-3, 3))
    def move_the_song(self, start):
        self.do(act.PlaceSong(start=start))

    @rule(data=st.data())
    def tie_what_is_loose(self, data):
        for tie in derive(self.edit).loose:
            if tie.proposed is not None and data.draw(st.booleans()):
                self.do(act.ChangeTie(clip="clip-1", pin=tie.pin, cue=tie.proposed))

    @rule()
    def tie_all_that_is_loose(self):
        self.do(act.TieLoose())

    @invariant()
    def cues_are_in_order_inside_the_song_and_each_its_own(self):
        times = [cue.time for cue in self.edit.song.cues]
        assert times == sorted(times)
        assert all(0 <= time <= SECONDS for time in times)
        assert len(self.edit.song.by_id) == len(times)

    @invariant()
    def every_tie_lands_or_is_loose_and_none_is_lost(self):
        derived = derive(self.edit)
        assert all(landing.exact for landing in derived.landings)
        assert len(derived.landings) + len(derived.loose) == 2

    @invariant()
    def it_reads_back_the_same(self):
        assert parse_edit(json.loads(self.edit.model_dump_json())) == self.edit


TestMusicRun = MusicRun.TestCase
TestMusicRun.settings = settings(max_examples=20, stateful_step_count=12, deadline=None)
