"""``python -m scripts.learning.learn FOLDER``: learn the weights in ``src/izmet/sound/learned.npz``.

Writes the practice songs into FOLDER when they are not there, describes them with
the very code that Izmet listens with, fits four models and prints what each reaches
on grooves, or on players, that it has not met:

    kind   which kinds a hit is of                a convolutional net (``strokes``)
    sound  what sounds like a beat                a temporal convolutional net (``beatnet``)
    beat   which candidate train is the beat      ``choice``
    bar    which of its beats begins a bar        ``choice``

Songs are parted by who composed them: what sounds like a beat is learned from some, the choice
between trains from others, which that net has not met, and a tenth is kept for the end (``parts``).
``--also FOLDER`` adds songs of one's own: audio beside a json of the same form. ``--beats`` learns
what is said of beats and bars alone, and leaves the kinds of hits as they are.
"""

from __future__ import annotations

import argparse
import shutil
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Literal
from zlib import crc32

import mir_eval
import numpy as np
import soundfile
from numpy.typing import NDArray

from izmet.sound import hits, meter
from izmet.sound.beatnet import hear
from izmet.sound.grid import place
from izmet.sound.learned import FILE, Weights, learned
from izmet.sound.mono import split
from izmet.sound.onsets import FRAME_RATE, RATE, find_onsets
from izmet.sound.source import Source
from izmet.sound.trains import candidates
from scripts.learning import choice
from scripts.learning.beatnet import fit_beatnet, lessons
from scripts.learning.grooves import GROOVES
from scripts.learning.inventing import invent, invent_broken
from scripts.learning.modules import modules, write_module
from scripts.learning.pieces import PLAYED_ANEW, pieces, write_piece
from scripts.learning.practice import LATER, VERSIONS, write_song
from scripts.learning.reliability import Claims, draw
from scripts.learning.strokes import describe_hits, fit_kinds, report_kinds
from scripts.learning.styles import styles, write_style
from scripts.learning.truth import tells_kinds, truth_of

Doubles = NDArray[np.float64]

AS_GOOD = 0.03
"""Trains whose F is this near to the best one are all right."""
FASTER, FASTEST = 1.35, 216
"""Songs of the choice count at this speed too, up to so many beats a minute: few of them are quick."""
LEAST_BEATS = 9
"""Songs of fewer tell nothing."""
RIGHT = 0.8
"""A train of a lower F is not right, whatever the others are."""
SHARPER = np.linspace(0.3, 2.5, 45)
CLAIMS = (0.0, 0.4, 0.6, 0.75, 0.85, 0.95, 1.01)
ASKED = 3
DIAGRAM = Path(__file__).parents[2] / "docs" / "reliability.svg"
EXACT_SECONDS = 0.02
FOLDS = 8
INVENTED, BROKEN = 240, 100
"""How many grooves drawn at random are practised, each in one song, and how many broken beats."""
BROKEN_FROM = 1000
"""The number of the first of these, as a song."""
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
    parser.add_argument("--beats", action="store_true")
    options = parser.parse_args()
    write_practice(options.folder)
    paths = sorted(path for folder in (options.folder, *options.also) for path in folder.iterdir())
    paths = [path for path in paths if path.suffix in (".wav", ".ogg") and path.with_suffix(".json").exists()]
    arrays = dict(learned().arrays)
    if not options.beats:
        with ProcessPoolExecutor() as pool:
            strokes = list(pool.map(describe_hits, filter(tells_kinds, paths)))
        arrays |= fit_kinds(strokes)
        report_kinds(strokes)
    counted = [path for path in paths if len(truth_of(path).get("beats", ())) >= LEAST_BEATS]
    arrays |= fit_beatnet(lessons([path for path in counted if part_of(path) == "sound"]))
    chosen = [path for path in counted if part_of(path) == "choice"]
    own = options.also
    with ProcessPoolExecutor() as pool:
        described = [
            pool.submit(describe_beats, path, speed, ALSO_COUNTS if path.parent in own else 1.0, arrays)
            for path in chosen
            for speed in (1.0, FASTER)
            if speed * tempo_of(path) < FASTEST or speed == 1
        ]
        songs = [song for each in described if (song := each.result()).trains]
    print(f"{len(songs)} songs; F of the best candidates {np.mean([song.fits.max() for song in songs]):.3f}")
    sharper = report(songs)
    arrays |= choice.sharpened("beat", fit_beats(songs), sharper) | fit_bars(songs)
    np.savez_compressed(FILE, **{name: array.astype(np.float32) for name, array in arrays.items()})
    print(f"{FILE.name}: {FILE.stat().st_size / 1024:.0f} KB")


def part_of(path: Path) -> Literal["sound", "choice", "kept"]:
    """For what a song is used, the same for all of one composer, or of one groove."""
    truth = truth_of(path)
    composer = truth.get("composer") or truth.get("groove") or path.stem.rsplit("-", 1)[0]
    drawn = crc32(str(composer).encode()) % 10
    return "kept" if drawn == 0 else "choice" if drawn <= 3 else "sound"


def write_practice(folder: Path) -> None:
    """Write the practice songs, all of them or none, where they are not there."""
    if folder.exists():
        return
    begun = folder.with_name(f"{folder.name}-begun")
    shutil.rmtree(begun, ignore_errors=True)
    begun.mkdir(parents=True)
    with ProcessPoolExecutor() as pool:
        songs = [
            pool.submit(write_song, groove, number, version, begun)
            for number, groove in enumerate(GROOVES)
            for version in (*range(VERSIONS), *LATER)
        ]
        songs += [
            pool.submit(write_song, invent(number), number, version, begun)
            for number in range(len(GROOVES), len(GROOVES) + INVENTED)
            for version in (number % VERSIONS, LATER[number % len(LATER)])
        ]
        songs += [
            pool.submit(write_song, invent_broken(number), BROKEN_FROM + number, number % VERSIONS, begun)
            for number in range(BROKEN)
        ]
        songs += [pool.submit(write_style, *style, 0, begun) for style in styles()]
        songs += [
            pool.submit(write_piece, *piece, version, begun)
            for piece in pieces()
            for version in range(PLAYED_ANEW)
        ]
        songs += [pool.submit(write_module, path, begun) for path in modules()]
        for song in songs:
            song.result()
    begun.rename(folder)


def tempo_of(path: Path) -> float:
    """Beats a minute of a song."""
    return 60 / float(np.median(np.diff(truth_of(path)["beats"])))


def describe_beats(path: Path, speed: float, weight: float, arrays: dict[str, Doubles]) -> Song:
    """Describe the trains and bars of a song at a speed, its hits as the net tells them."""
    samples, rate = soundfile.read(path, dtype="float32", always_2d=True)
    rate = round(rate * speed)  # as if its samples came faster
    truth = truth_of(path)
    sound = Source.of(samples, rate)
    native = split(sound, rate)[0]
    mono, sides = split(sound, RATE)
    found = hits.find_hits(mono, sides, native, rate, Weights(arrays))
    onsets = find_onsets(mono)
    music = meter.heard(onsets, found, hear(onsets.picture, arrays))
    trains = candidates(music["full"], music["sounding"])
    beats, downbeats = np.array(truth["beats"]) / speed, np.array(truth["downbeats"]) / speed
    within = beats[beats < len(mono) / 44100] * FRAME_RATE
    per_bar, phase = 0, 0
    if len(downbeats) > 1:
        per_bar = round(np.median(np.diff(downbeats)) / np.median(np.diff(beats)))
        phase = int(np.argmin(np.abs(beats - downbeats[0]))) % per_bar
    choices = meter.bar_choices()
    return Song(
        name=path.stem.rsplit("-", 1)[0],
        weight=weight,
        trains=trains,
        fits=np.array([_f(beats, train / FRAME_RATE) for train in trains]),
        exact=np.array(
            [_f(beats, place(train, music["full"], native, rate)[0], EXACT_SECONDS) for train in trains]
        ),
        trains_described=np.array([meter.describe(train, music) for train in trains]),
        bar=choices.index((per_bar, phase)) if (per_bar, phase) in choices else None,
        bars_described=meter.describe_bars(within, music),
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


def report(songs: list[Song]) -> float:
    """Print what the beat and the bar models reach on grooves left out of their learning.

    Returns:
        How many times as large the scores of trains must be for likelihoods to hold.
    """
    names = sorted({song.name for song in songs})
    measures, bars = [], []
    own: list[tuple[float, ...]] = []
    asked: list[Answer] = []
    for fold in range(FOLDS):
        left_out = set(names[fold::FOLDS])
        seen = [song for song in songs if song.name not in left_out]
        weights = Weights(fit_beats(seen) | fit_bars(seen))
        for song in (song for song in songs if song.name in left_out):
            scores = weights.score("beat", song.trains_described)
            best = int(np.argmax(scores))
            trim = mir_eval.beat.trim_beats
            levels = mir_eval.beat.continuity(trim(song.beats), trim(song.trains[best] / FRAME_RATE))
            measures.append((song.fits[best], song.exact[best], levels[1], levels[3]))
            asked.append(Answer(scores, song.fits >= max(RIGHT, song.fits.max() - AS_GOOD)))
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
    return _reliability(asked)


@dataclass(frozen=True)
class Answer:
    """The scores of a song's trains by weights that have not met it, and which of them are right."""

    scores: Doubles
    right: NDArray[np.bool_]

    def chances(self, sharper: float) -> Doubles:
        """How likely each train is said to be, of shape (trains,)."""
        powers = np.exp(sharper * (self.scores - self.scores.max()))
        chances: Doubles = powers / powers.sum()
        return chances


def _reliability(asked: list[Answer]) -> float:
    """Print of how many claims of each likelihood hold, and return what the scores are multiplied by."""

    def surprise(sharper: float) -> float:
        found = [each.chances(sharper)[each.right].sum() for each in asked if each.right.any()]
        return -float(np.log(np.maximum(found, 1e-9)).mean())

    sharper = min(SHARPER, key=surprise)
    claims = np.array([(each.chances(sharper).max(), each.right[np.argmax(each.scores)]) for each in asked])
    print(f"scores count {sharper:.2f} times; claims, how many hold, how many there are:")
    found = []
    for low, high in pairwise(CLAIMS):
        inside = claims[(claims[:, 0] >= low) & (claims[:, 0] < high)]
        if len(inside):
            said, held = inside.mean(axis=0)
            found.append(Claims(said, held, len(inside)))
            print(f"  {low:.2f} to {min(high, 1):.2f}: {found[-1].held:.2f} of {len(inside)}")
    draw(found, DIAGRAM)
    first = [each.right[np.argsort(-each.scores)[:ASKED]].any() for each in asked]
    print(f"a right one is among the first {ASKED} in {np.mean(first):.3f}", flush=True)
    return sharper


def _told(measures: list[tuple[float, ...]]) -> str:
    return "beats F {:.3f}, at 20 ms {:.3f}, CMLt {:.3f}, AMLt {:.3f}".format(*np.mean(measures, axis=0))


if __name__ == "__main__":
    main()
