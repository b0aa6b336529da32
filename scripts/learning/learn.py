"""``python -m scripts.learning.learn FOLDER``: learn the weights in ``src/izmet/sound/learned.npz``.

Writes the practice songs into FOLDER when they are not there, describes them with
the very code that Izmet listens with, fits three models and prints what each reaches
on grooves, or on players, that it has not met:

    beat   which candidate train is the beat      ``choice``
    bar    which of its beats begins a bar        ``choice``
    kind   which kinds a hit is of                a convolutional net (``strokes``)

``--also FOLDER`` adds songs of one's own: audio beside a json of the same form.
"""

from __future__ import annotations

import argparse
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import mir_eval
import numpy as np
import soundfile
from numpy.typing import NDArray

from izmet.sound import hits, meter
from izmet.sound.grid import place
from izmet.sound.learned import FILE, Weights
from izmet.sound.mono import split
from izmet.sound.onsets import FRAME_RATE, RATE, find_onsets
from izmet.sound.source import Source
from izmet.sound.trains import candidates
from scripts.learning import choice
from scripts.learning.grooves import GROOVES
from scripts.learning.inventing import invent
from scripts.learning.pieces import PLAYED_ANEW, pieces, write_piece
from scripts.learning.practice import VERSIONS, write_song
from scripts.learning.strokes import describe_hits, fit_kinds, report_kinds, truth_of
from scripts.learning.styles import styles, write_style

Doubles = NDArray[np.float64]

AS_GOOD = 0.03
"""Trains whose F is this near to the best one are all right."""
EXACT_SECONDS = 0.02
FOLDS = 8
INVENTED = 240
"""How many grooves drawn at random are practised, each in one song."""
ALSO_COUNTS = 2.0
"""A song of one's own weighs as much as so many practice songs."""


@dataclass
class Song:
    """The trains and bars of a song, described, and the truth about them.

    ``fits`` is the F of each train, ``exact`` that at ``EXACT_SECONDS`` once it is placed on the attacks.
    """

    name: str
    weight: float
    trains: list[Doubles]
    fits: Doubles
    exact: Doubles
    trains_described: Doubles
    bar: int | None
    bars_described: Doubles
    beats: Doubles


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--also", type=Path, action="append", default=[])
    options = parser.parse_args()
    write_practice(options.folder)
    paths = sorted(path for folder in (options.folder, *options.also) for path in folder.iterdir())
    paths = [path for path in paths if path.suffix in (".wav", ".ogg") and path.with_suffix(".json").exists()]
    with ProcessPoolExecutor() as pool:
        strokes = list(pool.map(describe_hits, paths))
        arrays = fit_kinds(strokes)
        counted = [path for path in paths if "beats" in truth_of(path)]
        weighed = [ALSO_COUNTS if path.parent in options.also else 1.0 for path in counted]
        described = pool.map(describe_beats, counted, weighed, [arrays] * len(counted))
        songs = [song for song in described if song.trains]
    print(f"{len(songs)} songs; F of the best candidates {np.mean([song.fits.max() for song in songs]):.3f}")
    report(songs)
    arrays |= fit_beats(songs) | fit_bars(songs)
    np.savez_compressed(FILE, **{name: array.astype(np.float32) for name, array in arrays.items()})
    print(f"{FILE.name}: {FILE.stat().st_size / 1024:.0f} KB")
    report_kinds(strokes)


def write_practice(folder: Path) -> None:
    """Write the practice songs that are missing."""
    folder.mkdir(parents=True, exist_ok=True)
    if any(folder.glob("*.wav")):
        return
    with ProcessPoolExecutor() as pool:
        songs = [
            pool.submit(write_song, groove, number, version, folder)
            for number, groove in enumerate(GROOVES)
            for version in range(VERSIONS)
        ]
        songs += [
            pool.submit(write_song, invent(number), number, number % VERSIONS, folder)
            for number in range(len(GROOVES), len(GROOVES) + INVENTED)
        ]
        songs += [pool.submit(write_style, *style, 0, folder) for style in styles()]
        songs += [
            pool.submit(write_piece, *piece, version, folder)
            for piece in pieces()
            for version in range(PLAYED_ANEW)
        ]
        for song in songs:
            song.result()


def describe_beats(path: Path, weight: float, arrays: dict[str, Doubles]) -> Song:
    """Describe the trains and bars of a song, its hits as the net tells them."""
    samples, rate = soundfile.read(path, dtype="float32", always_2d=True)
    truth = truth_of(path)
    sound = Source.of(samples, rate)
    native = split(sound, rate)[0]
    mono, sides = split(sound, RATE)
    found = hits.find_hits(mono, sides, native, rate, Weights(arrays))
    bands = meter.heard(find_onsets(mono), found)
    trains = candidates(bands["full"])
    beats, downbeats = np.array(truth["beats"]), np.array(truth["downbeats"])
    within = beats[beats < len(mono) / 44100] * FRAME_RATE
    per_bar = round(np.median(np.diff(downbeats)) / np.median(np.diff(beats)))
    phase = int(np.argmin(np.abs(beats - downbeats[0]))) % per_bar
    choices = meter.bar_choices()
    return Song(
        name=path.stem.rsplit("-", 1)[0],
        weight=weight,
        trains=trains,
        fits=np.array([_f(beats, train / FRAME_RATE) for train in trains]),
        exact=np.array(
            [_f(beats, place(train, bands["full"], native, rate)[0], EXACT_SECONDS) for train in trains]
        ),
        trains_described=np.array([meter.describe(train, bands) for train in trains]),
        bar=choices.index((per_bar, phase)) if (per_bar, phase) in choices else None,
        bars_described=meter.describe_bars(within, bands),
        beats=beats,
    )


def _f(beats: Doubles, found: Doubles, near: float = 0.07) -> float:
    trim = mir_eval.beat.trim_beats
    return float(mir_eval.beat.f_measure(trim(beats), trim(found), near))


def fit_beats(songs: list[Song]) -> dict[str, Doubles]:
    """Weights that make the trains that fit the truth the likely ones."""
    right = [song.fits >= song.fits.max() - AS_GOOD for song in songs]
    described = [song.trains_described for song in songs]
    return choice.fit("beat", choice.Question(described, right, [song.weight for song in songs]))


def fit_bars(songs: list[Song]) -> dict[str, Doubles]:
    """Weights that make the true bars the likely ones."""
    known = [song for song in songs if song.bar is not None]
    right = [np.arange(len(song.bars_described)) == song.bar for song in known]
    described = [song.bars_described for song in known]
    return choice.fit("bar", choice.Question(described, right, [song.weight for song in known]))


def report(songs: list[Song]) -> None:
    """Print what the beat and the bar models reach on grooves left out of their learning."""
    names = sorted({song.name for song in songs})
    measures, bars = [], []
    own: list[tuple[float, ...]] = []
    for fold in range(FOLDS):
        left_out = set(names[fold::FOLDS])
        seen = [song for song in songs if song.name not in left_out]
        weights = Weights(fit_beats(seen) | fit_bars(seen))
        for song in (song for song in songs if song.name in left_out):
            best = int(np.argmax(weights.score("beat", song.trains_described)))
            trim = mir_eval.beat.trim_beats
            levels = mir_eval.beat.continuity(trim(song.beats), trim(song.trains[best] / FRAME_RATE))
            measures.append((song.fits[best], song.exact[best], levels[1], levels[3]))
            if song.weight > 1:
                own.append(measures[-1])
            if song.bar is not None:
                bars.append(int(np.argmax(weights.score("bar", song.bars_described))) == song.bar)
    if own:
        print(f"songs of one's own, left out in turn of the beat's weights alone: {_told(own)}")
    # What the beat's weights read was described with a net of kinds that has met every song.
    print(
        f"grooves left out of the weights of beat and bar alone: {_told(measures)}; bars {np.mean(bars):.3f}"
    )


def _told(measures: list[tuple[float, ...]]) -> str:
    return "beats F {:.3f}, at 20 ms {:.3f}, CMLt {:.3f}, AMLt {:.3f}".format(*np.mean(measures, axis=0))


if __name__ == "__main__":
    main()
