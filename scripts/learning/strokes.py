"""The hits of practice songs: what the net is shown of them, and what it reaches on unheard players."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import mir_eval
import numpy as np
import soundfile
from numpy.typing import NDArray

from izmet.sound import bands, hits
from izmet.sound.attack import refine
from izmet.sound.kindnet import chances
from izmet.sound.mono import split
from izmet.sound.onsets import RATE
from izmet.sound.source import Source
from scripts.learning import kindnet
from scripts.learning.truth import truth_of

Doubles = NDArray[np.float64]

SAME_SECONDS = 0.022
"""A candidate this near to a true hit is that hit."""
RIGHT_SECONDS = 0.025
"""How near counts as right in the report: samples begin up to some 10 ms after their note."""
DOUBLED_SECONDS = 0.01
LEFT_OUT = frozenset({"TimGM6mb", "GMRockKit", "VariBreaks", "ColomboAcousticDrumkit"})
"""A soundfont and some kits that the net of the report has not heard."""


@dataclass(frozen=True)
class Strokes(kindnet.Song):
    """The candidate hits of a song (the last of their kinds: any), the truth, and who played it."""

    truth: dict[hits.HitKind, Doubles]
    players: frozenset[str]


def describe_hits(path: Path) -> Strokes:
    """Find the candidate hits of a song with the code that Izmet listens with."""
    samples, rate = soundfile.read(path, dtype="float32", always_2d=True)
    told = truth_of(path)
    truth = {kind: np.sort([hit[0] for hit in told[kind]]) for kind in hits.KINDS}
    sound = Source.of(samples, rate)
    native = split(sound, rate)[0]
    logs = bands.band_levels(*split(sound, RATE))
    frames, _ = hits.candidates(logs)
    times = np.array([refine(native, rate, frame / bands.FRAME_RATE) for frame in frames])
    times = np.maximum.accumulate(times)  # two that lie close may find each other's attack
    kinds = np.stack([_near(times, truth[kind]) for kind in hits.KINDS], axis=1)
    return Strokes(
        players=frozenset(told.get("played_by", ())),
        pictures=bands.Pictures(logs, frames)[:].astype(np.float16),
        times=times,
        kinds=np.column_stack([kinds, kinds.any(axis=1)]),
        truth=truth,
    )


def _near(times: Doubles, truth: Doubles) -> NDArray[np.bool_]:
    if len(truth) == 0:
        return np.zeros(len(times), bool)
    after = np.clip(np.searchsorted(truth, times), 1, max(1, len(truth) - 1))
    apart = np.minimum(
        np.abs(times - truth[after - 1]), np.abs(times - truth[np.minimum(after, len(truth) - 1)])
    )
    return apart <= SAME_SECONDS


def fit_kinds(songs: list[Strokes]) -> dict[str, Doubles]:
    """The net that tells kinds of hits."""
    return kindnet.fit([song for song in songs if len(song.times)])


def report_kinds(songs: list[Strokes]) -> None:
    """Print what the net reaches on players that it has not heard."""
    unheard = [song for song in songs if song.players & LEFT_OUT]
    arrays = fit_kinds([song for song in songs if not song.players & LEFT_OUT])
    rows = [
        _measures(song, chances(song.pictures.astype(np.float32), song.times, arrays)) for song in unheard
    ]
    names = (*hits.KINDS, "hits")
    means = np.nanmean(rows, axis=0)
    told = ", ".join(f"{name} {mean:.3f}" for name, mean in zip(names, means, strict=True))
    print(f"{len(unheard)} songs of players left out, F at {RIGHT_SECONDS * 1000:.0f} ms: {told}")


def _measures(song: Strokes, told: Doubles) -> list[float]:
    """F of each kind, nan where the song has none of it, and of all hits."""
    is_hit = hits.are_hits(told)
    found = [song.times[is_hit & (told[:, k] >= hits.SURE[kind])] for k, kind in enumerate(hits.KINDS)]
    pairs = [(song.truth[kind], found[k]) for k, kind in enumerate(hits.KINDS)]
    pairs.append((np.sort(np.concatenate(list(song.truth.values()))), song.times[is_hit]))
    return [
        float(mir_eval.onset.f_measure(_single(true), times, window=RIGHT_SECONDS)[0])
        if len(true)
        else np.nan
        for true, times in pairs
    ]


def _single(times: Doubles) -> Doubles:
    """Instants without those that follow another at once: two drums at a time are one hit."""
    return times[np.diff(times, prepend=-1.0) > DOUBLED_SECONDS]
