"""Prints what the music pass reaches: the rows of docs/music.md that need no learning.

    python -m scripts.evaluate [FOLDER …]

Each folder holds songs with the json of their truth beside them (``beats``, ``downbeats``
in seconds; ``kick``, ``snare``, ``hat``, ``bass`` as pairs of seconds and strength). The
tests' drum machine and the demo's synthesiser are always measured too: no sound of theirs
was learned from. Rows about songs left out of learning are printed by
``scripts.learning.learn``. Measures are those of mir_eval.
"""

from __future__ import annotations

import json
import sys
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import mir_eval
import numpy as np
import soundfile
from numpy.typing import NDArray

from izmet.demo.songs import SONGS, synthesise
from izmet.sound.cues import Found, find_cues
from tests.sound.machine import RATE, play

KINDS = ("kick", "snare", "hat", "bass")
KIND_SECONDS, HIT_SECONDS, DROP_SECONDS = 0.015, 0.010, 1 / 60
TOGETHER_SECONDS = 0.004
"""Notes of a kind that begin within so long of each other count as one."""
TEMPOS = (78, 96, 111, 124, 142, 168)
PLANS = tuple(
    before + after
    for before in (["full"] * 4 + ["thin"] * 4, ["thin"] * 8, ["full"] * 2 + ["thin"] * 3)
    for after in (["full"] * 8, ["thin"] * 2 + ["roll"] + ["full"] * 6)
)
Doubles = NDArray[np.float64]


@dataclass
class Measured:
    """Figures of one group of songs, a list for each measure."""

    beats: list[tuple[float, float, float, float]] = field(default_factory=list)
    bars: list[float] = field(default_factory=list)
    kinds: dict[str, list[float]] = field(default_factory=lambda: {kind: [] for kind in KINDS})
    hits: list[float] = field(default_factory=list)

    def add(self, truth: dict[str, Any], found: Found) -> None:
        """Measure one song."""
        beats, heard = np.array(truth["beats"]), _times(found, "beat", "downbeat")
        levels = mir_eval.beat.continuity(_trimmed(beats), _trimmed(heard))
        self.beats.append((_beat_f(beats, heard, 0.07), _beat_f(beats, heard, 0.02), levels[1], levels[3]))
        self.bars.append(_beat_f(np.array(truth["downbeats"]), _times(found, "downbeat"), 0.07))
        struck = {kind: _together(truth.get(kind, [])) for kind in KINDS}
        for kind, times in struck.items():
            if len(times):
                self.kinds[kind].append(_hit_f(times, _times(found, kind), KIND_SECONDS))
        every = _together(np.concatenate(list(struck.values())))
        self.hits.append(_hit_f(every, _together(_times(found, *KINDS)), HIT_SECONDS))

    def tell(self, name: str) -> None:
        """Print the rows of the group."""
        f, near, correct, any_level = np.mean(self.beats, axis=0)
        print(f"{name} ({len(self.hits)} songs)")
        print(f"  beats F, F 20 ms, CMLt, AMLt   {f:.3f} {near:.3f} {correct:.3f} {any_level:.3f}")
        print(f"  bars F                         {np.mean(self.bars):.3f}")
        kinds = " ".join(f"{np.mean(self.kinds[kind]):.3f}" for kind in KINDS if self.kinds[kind])
        print(f"  kick, snare, hat, bass, 15 ms  {kinds}")
        print(f"  all hits, 10 ms                {np.mean(self.hits):.3f}", flush=True)


def main(folders: list[str]) -> None:
    everything = Measured()
    for folder in map(Path, folders):
        group = Measured()
        for path in sorted(each for each in folder.iterdir() if each.suffix in (".ogg", ".wav", ".flac")):
            samples, rate = soundfile.read(path, dtype="float32", always_2d=True)
            truth: dict[str, Any] = json.loads(path.with_suffix(".json").read_text())
            _measure(truth, find_cues(samples, rate), group, everything)
        group.tell(f"songs of {folder.name}")
    group = Measured()
    for index, tempo in enumerate(TEMPOS):
        song = play(tempo, bars=24, drift=0.02 * (index % 3 == 2), seed=index)
        truth = {kind: [[t, 1.0] for t in song.hits[kind]] for kind in KINDS}
        truth |= {"beats": song.beats, "downbeats": song.downbeats}
        _measure(truth, find_cues(song.samples, RATE), group, everything)
    group.tell("the tests' drum machine")
    group = Measured()
    for made in SONGS:
        samples, truth = synthesise(made)
        struck = {
            kind: [[hit["time"], 1.0] for hit in truth["hits"] if hit["kind"] == kind] for kind in KINDS
        }
        _measure(truth | struck, find_cues(samples.astype(np.float32)[:, None], RATE), group, everything)
    group.tell("the demo's synthesiser")
    everything.tell("all of these")
    _drops_and_rolls()


def _measure(truth: dict[str, Any], found: Found, *groups: Measured) -> None:
    for group in groups:
        group.add(truth, found)


def _drops_and_rolls() -> None:
    wanted = right = made_up = rolls = rolls_right = 0
    songs = [
        (song.samples, song.drops, song.rolls)
        for t in TEMPOS
        for p in PLANS
        for song in [play(t, plan=p, seed=t)]
    ]
    songs += [
        (samples.astype(np.float32)[:, None], truth["drops"], []) for samples, truth in map(synthesise, SONGS)
    ]
    for samples, drops, rolled in songs:
        found = find_cues(samples, RATE)
        heard = _times(found, "drop")
        near = sum(bool(len(heard)) and bool(np.abs(heard - drop).min() < DROP_SECONDS) for drop in drops)
        wanted, right, made_up = wanted + len(drops), right + near, made_up + len(heard) - near
        spans = [(section.start, section.end) for section in found.sections if section.kind == "roll"]
        rolls += len(rolled)
        rolls_right += sum(
            any(abs(a - begin) < 0.6 and abs(b - end) < 0.6 for a, b in spans) for begin, end in rolled
        )
    print(f"drops within a frame at 60 fps: {right} of {wanted}, {made_up} made up, in {len(songs)} songs")
    print(f"rolls, start and end within 0.6 s: {rolls_right} of {rolls}")


def _times(found: Found, *kinds: str) -> Doubles:
    return np.array([cue.time for cue in found.cues if cue.kind in kinds])


def _together(notes: Any) -> Doubles:
    times = np.sort(np.array([note[0] if np.ndim(note) else note for note in notes], dtype=float))
    return times[np.diff(times, prepend=-1.0) > TOGETHER_SECONDS]


def _trimmed(beats: Doubles) -> Doubles:
    return np.asarray(mir_eval.beat.trim_beats(beats))


def _beat_f(truth: Doubles, found: Doubles, near: float) -> float:
    return float(mir_eval.beat.f_measure(_trimmed(truth), _trimmed(found), near))


def _hit_f(truth: Doubles, found: Doubles, near: float) -> float:
    return float(mir_eval.onset.f_measure(truth, found, near)[0])


if __name__ == "__main__":
    main(sys.argv[1:])
