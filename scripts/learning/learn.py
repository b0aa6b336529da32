"""``python -m scripts.learning.learn FOLDER``: learn the weights in ``src/izmet/sound/learned.npz``.

Writes the practice songs into FOLDER when they are not there, describes them with
the very code that Izmet listens with, fits three models and prints what each reaches
on grooves, or on players, that it has not met:

    beat   which candidate train is the beat      conditional logit
    bar    which of its beats begins a bar        conditional logit
    kind   which kinds a hit is of                a convolutional net (``strokes``)

``--also FOLDER`` adds songs of one's own: audio beside a json of the same form.
"""

from __future__ import annotations

import argparse
import json
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import mir_eval
import numpy as np
import soundfile
from numpy.typing import NDArray
from scipy.optimize import minimize

from izmet.sound import hits, meter
from izmet.sound.learned import FILE, Weights
from izmet.sound.mono import mixed_down
from izmet.sound.onsets import FRAME_RATE, find_onsets, to_mono
from scripts.learning.grooves import GROOVES
from scripts.learning.practice import VERSIONS, write_song
from scripts.learning.strokes import describe_hits, fit_kinds, report_kinds
from scripts.learning.styles import styles, write_style

Doubles = NDArray[np.float64]

BEAT_STIFFNESS, BAR_STIFFNESS = 24.0, 3.0
AS_GOOD = 0.03
"""Trains whose F is this near to the best one are all right."""
FOLDS = 8
ALSO_COUNTS = 2.0
"""A song of one's own weighs as much as so many practice songs."""


@dataclass
class Song:
    """The trains and bars of a song, described, and the truth about them."""

    name: str
    weight: float
    trains: list[Doubles]
    fits: Doubles
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
        weighed = [ALSO_COUNTS if path.parent in options.also else 1.0 for path in paths]
        described = pool.map(describe_beats, paths, weighed, [arrays] * len(paths))
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
            pool.submit(write_song, groove, version, folder)
            for groove in GROOVES
            for version in range(VERSIONS)
        ]
        songs += [pool.submit(write_style, *style, 0, folder) for style in styles()]
        for song in songs:
            song.result()


def describe_beats(path: Path, weight: float, arrays: dict[str, Doubles]) -> Song:
    """Describe the trains and bars of a song, its hits as the net tells them."""
    samples, rate = soundfile.read(path, dtype="float32", always_2d=True)
    truth = json.loads(path.with_suffix(".json").read_text())
    mono = to_mono(samples, rate)
    found = hits.find_hits(mono, mixed_down(samples), rate, Weights(arrays))
    bands = meter.heard(find_onsets(mono), found)
    trains = meter.candidates(bands["full"])
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
        trains_described=np.array([meter.describe(train, bands) for train in trains]),
        bar=choices.index((per_bar, phase)) if (per_bar, phase) in choices else None,
        bars_described=np.array([meter.describe_bar(within, bands, *choice) for choice in choices]),
        beats=beats,
    )


def _f(beats: Doubles, found: Doubles) -> float:
    trim = mir_eval.beat.trim_beats
    return float(mir_eval.beat.f_measure(trim(beats), trim(found)))


def fit_beats(songs: list[Song]) -> dict[str, Doubles]:
    """Weights that make the trains that fit the truth the likely ones."""
    right = [song.fits >= song.fits.max() - AS_GOOD for song in songs]
    weights = [song.weight for song in songs]
    return _choice("beat", [song.trains_described for song in songs], right, weights, BEAT_STIFFNESS)


def fit_bars(songs: list[Song]) -> dict[str, Doubles]:
    """Weights that make the true bars the likely ones."""
    known = [song for song in songs if song.bar is not None]
    right = [np.arange(len(song.bars_described)) == song.bar for song in known]
    weights = [song.weight for song in known]
    return _choice("bar", [song.bars_described for song in known], right, weights, BAR_STIFFNESS)


def _choice(
    question: str,
    groups: list[Doubles],
    right: list[NDArray[np.bool_]],
    counts: list[float],
    stiffness: float,
) -> dict[str, Doubles]:
    """Conditional logit with a ridge: features are scaled over all candidates of all songs."""
    every = np.concatenate(groups)
    mean, scale = every.mean(axis=0), every.std(axis=0) + 1e-6
    scaled = [(group - mean) / scale for group in groups]

    def loss(weights: Doubles) -> tuple[float, Doubles]:
        total, slope = 0.5 * stiffness * float(weights @ weights), stiffness * weights
        for group, good, count in zip(scaled, right, counts, strict=True):
            scores = group @ weights
            chances = np.exp(scores - scores.max())
            chances /= chances.sum()
            share = chances * good
            total -= count * float(np.log(share.sum() + 1e-12))
            slope = slope - count * (group.T @ (share / (share.sum() + 1e-12) - chances))
        return total, slope

    weights = minimize(loss, np.zeros(every.shape[1]), jac=True, method="L-BFGS-B").x
    return {f"{question}_mean": mean, f"{question}_scale": scale, f"{question}_weights": weights}


def report(songs: list[Song]) -> None:
    """Print what the beat and the bar models reach on grooves left out of their learning."""
    names = sorted({song.name for song in songs})
    measures, bars = [], []
    own: list[float] = []
    for fold in range(FOLDS):
        left_out = set(names[fold::FOLDS])
        seen = [song for song in songs if song.name not in left_out]
        beat, bar = fit_beats(seen), fit_bars(seen)
        for song in (song for song in songs if song.name in left_out):
            scores = ((song.trains_described - beat["beat_mean"]) / beat["beat_scale"]) @ beat["beat_weights"]
            best = int(np.argmax(scores))
            trim = mir_eval.beat.trim_beats
            levels = mir_eval.beat.continuity(trim(song.beats), trim(song.trains[best] / FRAME_RATE))
            measures.append((song.fits[best], levels[1], levels[3]))
            if song.weight > 1:
                own.append(float(song.fits[best]))
            if song.bar is not None:
                guess = ((song.bars_described - bar["bar_mean"]) / bar["bar_scale"]) @ bar["bar_weights"]
                bars.append(int(np.argmax(guess)) == song.bar)
    if own:
        print(f"songs of one's own, left out in turn: beats F {np.mean(own):.3f}")
    f, cmlt, amlt = np.mean(measures, axis=0)
    print(f"grooves left out: beats F {f:.3f}, CMLt {cmlt:.3f}, AMLt {amlt:.3f}; bars {np.mean(bars):.3f}")


if __name__ == "__main__":
    main()
