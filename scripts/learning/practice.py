"""Practice songs: music whose every beat and hit is known, played by real samples.

Grooves become MIDI files, with fills, pauses, sections without drums, human timing
and tempo that may drift or change at once; Debian's fluidsynth plays them through the
soundfonts that Debian packages, and synthesised or sampled kits play the drums of every
other version. Half of the songs are coloured as a mix might be; some have their chords and
melody through an amplifier, some stand in a room, some breathe (``spaces``). Truth is the
note's instant; a sample's own delay of a few milliseconds is not taken off.

    apt install fluidsynth fluid-soundfont-gm timgm6mb-soundfont musescore-general-soundfont-small
    apt install opl3-soundfont csound-soundfont
"""

from __future__ import annotations

import json
import subprocess
from dataclasses import dataclass, field
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, Literal

import mido
import numpy as np
import soundfile
from scipy.signal import butter, sosfilt

from izmet.sound.hits import KINDS as HIT_KINDS
from izmet.sound.hits import HitKind
from scripts.learning.grooves import (
    CLAP,
    CRASH,
    HAT,
    KICK,
    OPEN,
    PEDAL,
    SHAKER,
    SNARE,
    TOM_HIGH,
    TOM_LOW,
    Groove,
)
from scripts.learning.kits import synth_bass, synth_kit
from scripts.learning.samples import kit_names, sampled_kit
from scripts.learning.spaces import amplify, in_room

SOUNDFONTS = (
    "/usr/share/sounds/sf2/FluidR3_GM.sf2",
    "/usr/share/sounds/sf2/TimGM6mb.sf2",
    "/usr/share/sounds/sf3/MuseScore_General_Lite.sf3",
    "/usr/share/sounds/sf2/OPL-3_FM_128M.sf2",
    "/usr/share/sounds/sf2/sf_GMbank.sf2",
)
MACHINE = "machine"
"""Who plays synthesised drums: a kit of its own each time."""
SECONDS = 36.0
PAN = 10
"""The MIDI control of where a part is, left to right."""
CENTRE, ASIDE = 0.05, 0.7
"""How far from the middle kick and snare are at most, and other drums."""
VERSIONS = 8
TICKS = 480
SAMPLED = (5, 7, 9)
"""Versions whose drums are a sampled kit; the other odd ones have a synthesised kit."""
TURNS = 6
"""The version that changes its tempo in the middle."""
AMPLIFIED, ROOMY, BREATHES = LATER = (8, 9, 10)
"""Versions played through an amplifier, in a room, and with a tempo that breathes."""
PHRASE_BARS, BREATH, HELD = 4, (0.03, 0.1), (0.0, 0.25)
"""Of a phrase; by how much its middle is quicker than its ends; how much longer its last beat is."""
KITS = (0, 0, 8, 16, 24, 25, 32, 40)
"""General MIDI drum kits: standard, room, power, electronic, machine, jazz, brush."""
DRIVEN_DB = (-12.0, 3.0)
"""How loud what is played through an amplifier is against the rest."""
LEVEL = {"o": 52, "x": 86, "X": 112}
SCALE = {"1": 0, "3": 4, "5": 7, "8": 12}
PROGRESSIONS = ((0, 5, 3, 4), (0, 0, 3, 4), (0, 4, 5, 3), (5, 3, 0, 4), (0, 3, 0, 4))
DEGREES = (0, 2, 4, 5, 7, 9, 11)
KINDS: dict[int, HitKind] = {
    KICK: "kick",
    35: "kick",
    SNARE: "snare",
    40: "snare",
    CLAP: "snare",
    HAT: "hat",
    OPEN: "hat",
    PEDAL: "hat",
}
"""Rides, cymbals, shakers and hand drums are hits of no kind of their own: note."""
Truth = dict[HitKind, list[list[float]]]
"""Instants and strengths of the hits of each kind."""


@dataclass
class Score:
    """Notes as (beat, length in beats, channel, key, velocity); the instrument and place of each channel."""

    notes: list[tuple[float, float, int, int, int]] = field(default_factory=list)
    programs: dict[int, int] = field(default_factory=dict)
    pans: dict[int, int] = field(default_factory=dict)


DRUMS, BASS, CHORDS, LEAD = 9, 1, 2, 3


def compose(groove: Groove, rng: np.random.Generator, bars: int) -> Score:
    """A song in a groove: sections of four bars that add and drop parts, fills, and a melody."""
    score = Score()
    programs = {BASS: groove.bass_program, CHORDS: groove.chord_program, LEAD: groove.lead_program}
    bare = bool(groove.drums) and rng.random() < 0.2
    score.programs = {
        channel: program
        if rng.random() < 0.6
        else int(rng.choice([0, 4, 16, 24, 27, 48, 80, 90] if channel != BASS else [32, 33, 35, 38, 39]))
        for channel, program in programs.items()
    }
    score.programs[DRUMS] = int(rng.choice(KITS))
    score.pans = {channel: int(rng.integers(128)) for channel in (CHORDS, LEAD) if rng.random() < 0.7}
    root, progression = int(rng.integers(28, 40)), PROGRESSIONS[rng.integers(len(PROGRESSIONS))]
    hold = int(rng.choice([1, 1, 2]))
    parts = {DRUMS, BASS} if bare else {DRUMS, BASS, CHORDS}
    for bar in range(bars):
        if bar % 4 == 0 and bar and not bare:
            parts = {
                part
                for part, chance in ((DRUMS, 0.88), (BASS, 0.85), (CHORDS, 0.85), (LEAD, 0.6))
                if rng.random() < chance
            } or {CHORDS}
        degree = DEGREES[progression[bar // hold % len(progression)]]
        fill = bar % 4 == 3 and rng.random() < 0.6
        _bar(score, groove, rng, bar, root + degree, parts, fill)
    return score


def _bar(
    score: Score, groove: Groove, rng: np.random.Generator, bar: int, root: int, parts: set[int], fill: bool
) -> None:
    steps = groove.beats * groove.steps

    def at(step: int) -> float:
        late = groove.swing if step % 2 else 0.0
        return bar * groove.beats + (step + late) / groove.steps

    if DRUMS in parts:
        for key, line in groove.drums.items():
            for step, sign in enumerate(line):
                if (
                    sign != "."
                    and not (fill and key in (SNARE, KICK) and step >= steps * 3 // 4)
                    and rng.random() > 0.03
                ):
                    score.notes.append((at(step), 0.1, DRUMS, key, _velocity(LEVEL[sign], rng)))
        if fill and groove.drums:
            for step in range(steps * 3 // 4, steps):
                key = int(rng.choice([SNARE, SNARE, TOM_HIGH, TOM_LOW]))
                score.notes.append((at(step), 0.1, DRUMS, key, _velocity(98, rng)))
        if bar % 8 == 0 and groove.drums and rng.random() < 0.6:
            score.notes.append((at(0), 0.5, DRUMS, CRASH, _velocity(100, rng)))
    if BASS in parts:
        for step, following in _struck(groove.bass):
            length = 0.85 * (following - step) / groove.steps
            score.notes.append((at(step), length, BASS, root + SCALE[groove.bass[step]], _velocity(95, rng)))
    if CHORDS in parts:
        struck = _struck(groove.chords)
        broken = len(struck) >= steps // 2
        for place, (step, following) in enumerate(struck):
            keys = [root + 24 + note for note in (0, 4, 7)]
            for key in [keys[place % 3]] if broken else keys:
                length = 0.9 * (following - step) / groove.steps
                score.notes.append(
                    (at(step), length, CHORDS, key, _velocity(LEVEL[groove.chords[step]] - 12, rng))
                )
    if LEAD in parts:
        for step in range(steps):
            if rng.random() < groove.lead / groove.steps * (1.3 if step % groove.steps == 0 else 0.7):
                key = root + 36 + int(rng.choice([0, 2, 4, 7, 9, 12]))
                score.notes.append((at(step), 0.8 / groove.steps, LEAD, key, _velocity(80, rng)))


def kind_of(channel: int, key: int, bass: bool) -> HitKind:
    """The kind of a note of a channel, which may be a bass."""
    if channel == DRUMS:
        return KINDS.get(key, "note")
    return "bass" if bass else "note"


def _struck(line: str) -> list[tuple[int, int]]:
    """The steps of a line at which something is played, each with the step at which the next begins."""
    steps = [step for step, sign in enumerate(line) if sign != "."]
    return list(zip(steps, [*steps[1:], len(line)], strict=False))


def _velocity(level: int, rng: np.random.Generator) -> int:
    return int(np.clip(level + rng.normal(0, 7), 20, 127))


def tempo_map(groove: Groove, rng: np.random.Generator, beats: int, turns: bool) -> np.ndarray:
    """Instants of all beats in seconds: steady in two songs of three, else straying by some per cent.

    A song that turns goes on at another tempo from somewhere in its middle.
    """
    tempo = np.full(beats, rng.uniform(*groove.tempo))
    wander = np.zeros(beats)
    if rng.random() < 0.35:
        wander = np.cumsum(rng.normal(0, 0.004, beats))
        wander = np.clip(wander - wander.mean(), -0.06, 0.06)
    if turns:
        bar = rng.integers(beats // groove.beats // 3, beats // groove.beats * 2 // 3)
        tempo[bar * groove.beats :] *= rng.choice([rng.uniform(0.7, 0.88), rng.uniform(1.14, 1.4)])
    return np.concatenate([[0.0], np.cumsum(60 / (tempo * (1 + wander)))])


def breathed(times: np.ndarray, beats: int, rng: np.random.Generator) -> np.ndarray:
    """The same instants where each phrase quickens to its middle, slows to its end, and may wait there.

    The arch is a parabola (N. P. M. Todd, *A model of expressive timing in tonal music*, 1985, from memory).
    """
    lengths = np.diff(times)
    phrase = PHRASE_BARS * beats
    for start in range(0, len(lengths), phrase):
        part = slice(start, start + phrase)
        place = np.linspace(-1, 1, phrase)[: len(lengths[part])]
        lengths[part] *= 1 + rng.uniform(*BREATH) * (2 * place**2 - 1)
        if len(lengths[part]) == phrase:
            lengths[start + phrase - 1] *= 1 + rng.uniform(*HELD)
    return np.concatenate([[times[0]], times[0] + np.cumsum(lengths)])


def write_song(groove: Groove, number: int, version: int, folder: Path) -> Path:
    """Compose, play and write one practice song as wav with its truth as json. Returns the wav.

    Another ``number`` of the groove, or version, is another song.
    """
    rng = np.random.default_rng(number * 100 + version)
    bars = max(8, int(SECONDS * np.mean(groove.tempo) / 60 / groove.beats))
    score = compose(groove, rng, bars)
    times = tempo_map(groove, rng, bars * groove.beats, version == TURNS)
    if version == BREATHES:
        times = breathed(times, groove.beats, rng)
    lead_in = float(rng.uniform(0.0, 1.5))
    human = float(rng.choice([0.0, 0.002, 0.005]))
    font = SOUNDFONTS[(number + version) % len(SOUNDFONTS)]
    place = folder / f"{groove.name.replace(' ', '-')}-{version}"
    notes: list[Any] = sorted(
        (
            max(0.0, lead_in + float(np.interp(beat, np.arange(len(times)), times)) + rng.normal(0, human)),
            beat,
            *rest,
        )
        for beat, *rest in score.notes
    )
    notes = [n for n in notes if n[0] < lead_in + SECONDS]
    machine = {DRUMS, BASS} if version % 4 == 3 else {DRUMS} if version % 2 else set()
    kit = str(rng.choice(kit_names())) if version in SAMPLED else MACHINE
    driven = {CHORDS, LEAD} if version == AMPLIFIED else set()
    played = [(n[0], *n[2:]) for n in notes if n[3] not in machine | driven]
    write_midi(place.with_suffix(".mid"), _events(score, played))
    play(place.with_suffix(".mid"), place.with_suffix(".wav"), font, bool(rng.random() < 0.5))
    if driven:
        through = [(n[0], *n[2:]) for n in notes if n[3] in driven]
        add_amplified(place.with_suffix(".wav"), _events(score, through), font, rng)
    if machine:
        beat = float(np.median(np.diff(times)))
        add_drums(place.with_suffix(".wav"), [n for n in notes if n[3] in machine], beat, kit, rng)
    colour(place.with_suffix(".wav"), rng)
    if version == ROOMY:
        put_in_room(place.with_suffix(".wav"), rng)
    beats = lead_in + times
    beats = beats[beats < lead_in + SECONDS]
    struck: Truth = {kind: [] for kind in HIT_KINDS}
    for time, _, _, channel, key, velocity in notes:
        struck[kind_of(channel, key, channel == BASS)].append([time, velocity / 127])
    truth = struck | {
        "beats": beats.tolist(),
        "downbeats": beats[:: groove.beats].tolist(),
        "meter": groove.beats,
        "groove": groove.name,
        "played_by": [Path(font).stem, *([kit] if machine else [])],
    }
    place.with_suffix(".json").write_text(json.dumps(truth))
    return place.with_suffix(".wav")


def _events(
    score: Score, notes: list[tuple[float, float, int, int, int]]
) -> list[tuple[float, mido.Message]]:
    events = [
        (0.0, mido.Message("program_change", channel=channel, program=program))
        for channel, program in score.programs.items()
    ]
    events += [
        (0.0, mido.Message("control_change", channel=channel, control=PAN, value=value))
        for channel, value in score.pans.items()
    ]
    for time, length, channel, key, velocity in notes:
        events.append((time, mido.Message("note_on", channel=channel, note=key, velocity=velocity)))
        events.append((time + length * 0.5, mido.Message("note_off", channel=channel, note=key)))
    return sorted(events, key=lambda event: event[0])


def write_midi(path: Path, events: list[tuple[float, mido.Message]]) -> None:
    """Write messages at instants in seconds: at 60 beats a minute a tick is a fixed part of a second."""
    track = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=1_000_000)])
    last = 0
    for time, message in events:
        tick = round(time * TICKS * 2)
        track.append(message.copy(time=tick - last))
        last = tick
    mido.MidiFile(ticks_per_beat=TICKS * 2, tracks=[track]).save(str(path))


def play(midi: Path, wav: Path, font: str, reverb: bool) -> None:
    """Play a MIDI file through a soundfont into a wav file."""
    subprocess.run(
        [
            *("fluidsynth", "-ni", "-q", "-g", "0.5", "-r", "44100", "-o", "synth.chorus.active=0"),
            *("-o", f"synth.reverb.active={int(reverb)}", "-F", str(wav), font, str(midi)),
        ],
        check=True,
        capture_output=True,
    )


FILTERS: tuple[tuple[float, Literal["lowpass", "highpass"]], ...] = ((150.0, "lowpass"), (4000.0, "highpass"))


def colour(wav: Path, rng: np.random.Generator) -> None:
    """Shape the tone of every other song and press it together, as mixes differ."""
    if rng.random() < 0.5:
        return
    samples, rate = soundfile.read(wav, always_2d=True)
    for hertz, kind in FILTERS:
        band = sosfilt(butter(1, hertz, kind, fs=rate, output="sos"), samples, axis=0)
        samples = samples + (10 ** (rng.uniform(-7, 7) / 20) - 1) * band
    samples /= max(float(np.abs(samples).max()), 1e-9)
    drive = rng.uniform(0.5, 4.0)
    soundfile.write(wav, 0.9 * np.tanh(drive * samples) / np.tanh(drive), rate)


def put_in_room(wav: Path, rng: np.random.Generator) -> None:
    """Have a song stand in a room."""
    samples, rate = soundfile.read(wav, always_2d=True)
    heard = in_room(samples, rate, rng)
    soundfile.write(wav, 0.9 * heard / max(float(np.abs(heard).max()), 1e-9), rate)


def add_amplified(
    wav: Path, events: list[tuple[float, mido.Message]], font: str, rng: np.random.Generator
) -> None:
    """Mix what is played through an amplifier into a wav file, at the loudness of the rest or below."""
    with TemporaryDirectory() as folder:
        midi, own = Path(folder) / "driven.mid", Path(folder) / "driven.wav"
        write_midi(midi, events)
        play(midi, own, font, reverb=False)
        driven, rate = soundfile.read(own, always_2d=True)
    samples, _ = soundfile.read(wav, always_2d=True)
    mix = np.zeros((max(len(samples), len(driven)), 2))
    mix[: len(samples)] = samples
    loud = float(np.sqrt(np.mean(samples**2))) / max(float(np.sqrt(np.mean(driven**2))), 1e-9)
    mix[: len(driven)] += amplify(driven, rate, rng) * loud * 10 ** (rng.uniform(*DRIVEN_DB) / 20)
    soundfile.write(wav, 0.9 * mix / max(float(np.abs(mix).max()), 1e-9), rate)


def add_drums(
    wav: Path,
    notes: list[tuple[float, float, float, int, int, int]],
    beat: float,
    name: str,
    rng: np.random.Generator,
) -> None:
    """Mix the drums of a kit, and a synthesised bass, into a wav file.

    Args:
        notes: (seconds, beat, length in beats, channel, key, velocity).
        beat: the seconds of a beat.
    """
    samples, rate = soundfile.read(wav, always_2d=True)
    mix = np.zeros((max(len(samples), round((SECONDS + 3) * rate)), 2))
    mix[: len(samples)] = samples / max(float(np.abs(samples).max()), 1e-6) * rng.uniform(0.15, 0.6)
    aside = float(rng.choice([0.0, 1.0, 1.0]))
    kit = synth_kit(rng) if name == MACHINE else sampled_kit(name, rng)
    bass = synth_bass(rng)
    level = {
        key: rng.uniform(0.25, 0.6) * (1.3 if key == KICK else 0.6 if key in (HAT, OPEN, SHAKER) else 1.0)
        for key in kit
    }
    place = {key: aside * rng.uniform(-1, 1) * (CENTRE if key in (KICK, SNARE) else ASIDE) for key in kit}
    for time, _, length, channel, key, velocity in notes:
        if channel == DRUMS and key not in kit:
            continue
        sound = kit[key] * level[key] if channel == DRUMS else bass(key, max(0.05, length * beat)) * 0.4
        at = round(time * rate)
        room = min(len(sound), len(mix) - at)
        angle = (1 + (place[key] if channel == DRUMS else 0.0)) * np.pi / 4
        gains = np.sqrt(2) * np.array([np.cos(angle), np.sin(angle)]) * (velocity / 127) ** 1.5
        mix[at : at + room] += sound[:room, None] * gains
    soundfile.write(wav, np.tanh(mix * 1.1), rate)
