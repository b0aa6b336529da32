"""Practice songs that people composed: the pieces of Debian's free games, as MIDI files.

    apt install freedoom planetblupi-music-midi simutrans-data openttd-openmsx freedink-data

No groove drawn at random is as full as they are. What is not written in them is drawn
anew each time: the stretch, the tempo, the key, how loud each part is in the mix, and
who plays the drums. Where nearly all notes begin on parts of a quarter the quarters are the
beats; the others were played freely, and hits alone are learned from them.
"""

from __future__ import annotations

import json
import struct
from collections import defaultdict
from collections.abc import Iterator
from io import BytesIO
from pathlib import Path

import mido
import numpy as np

from izmet.sound.hits import KINDS as HIT_KINDS
from scripts.learning.grooves import KICK, SNARE
from scripts.learning.practice import (
    DRUMS,
    KINDS,
    KITS,
    MACHINE,
    SOUNDFONTS,
    Truth,
    add_drums,
    colour,
    kind_of,
    play,
    write_midi,
)
from scripts.learning.samples import kit_names

GAMES = Path("/usr/share/games/doom")
FOLDERS = (
    Path("/usr/share/planetblupi/music"),
    Path("/usr/share/games/simutrans/music"),
    Path("/usr/share/games/openttd/baseset/openmsx"),
    Path("/usr/share/games/dink/dink/Sound"),
)
SECONDS = 60.0
PLAYED_ANEW, WITH_KIT = 5, (2, 4)
"""How often each piece is played, and the versions whose drums a kit plays."""
BASSES = range(32, 40)
"""General MIDI programs."""
PART_DB, FASTER, HIGHER = 4.0, (0.9, 1.12), 3
"""How far a part's level strays, within which factors the tempo lies, by how many semitones the key."""
SAME_KEY = {35: KICK, 40: SNARE}
ALL_SOUND_OFF = 120
PARTS, ON_PART, ON_GRID = 12, 0.13, 0.85
"""Of a quarter, how near to one (in parts) a note is on it, and how many notes are where the grid is kept."""
Events = list[tuple[float, mido.Message]]
"""Instants in seconds and what happens then."""


def pieces() -> Iterator[tuple[str, bytes]]:
    """Name and MIDI file of each piece."""
    for folder in FOLDERS:
        for path in sorted(path for path in folder.glob("*") if path.suffix.lower() == ".mid"):
            yield path.stem.lower().replace(" ", "_"), path.read_bytes()
    for path in sorted(GAMES.glob("*.wad")):
        yield from _kept_in(path)


def _kept_in(path: Path) -> Iterator[tuple[str, bytes]]:
    """The MIDI files in an archive.

    It begins with the length and place of a directory that tells place, size and name of each.
    """
    archive = path.read_bytes()
    count, directory = struct.unpack_from("<4xii", archive)
    for entry in range(count):
        place, size, name = struct.unpack_from("<ii8s", archive, directory + 16 * entry)
        if archive[place : place + 4] == b"MThd":
            yield name.rstrip(b"\0").decode().lower(), archive[place : place + size]


def write_piece(name: str, data: bytes, version: int, folder: Path) -> Path | None:
    """Play a stretch of a piece as wav with its hits as json.

    Returns the wav, None where the piece has no drums or mido cannot read it.
    """
    rng = np.random.default_rng([version, *name.encode()])
    try:
        file = mido.MidiFile(file=BytesIO(data), clip=True)
    except (mido.KeySignatureError, EOFError, OSError):
        return None
    faster = rng.uniform(*FASTER)
    begin = rng.uniform(0, max(0.0, file.length - SECONDS)) if rng.random() < 0.5 else 0.0
    events = arranged(stretch(file, faster, begin), rng)
    drums = [event for event in events if _is_note(event[1]) and event[1].channel == DRUMS]
    if not drums:
        return None
    place = folder / f"piece_{name}-{version}"
    font = SOUNDFONTS[int(rng.integers(len(SOUNDFONTS)))]
    kit = str(rng.choice([MACHINE, *kit_names()])) if version in WITH_KIT else None
    played = [event for event in events if kit is None or event[1].channel != DRUMS]
    write_midi(place.with_suffix(".mid"), played)
    play(place.with_suffix(".mid"), place.with_suffix(".wav"), font, bool(rng.random() < 0.5))
    if kit is not None:
        notes = [(time, 0.0, 0.1, DRUMS, message.note, message.velocity) for time, message in drums]
        add_drums(place.with_suffix(".wav"), notes, 0.5, kit, rng)
    colour(place.with_suffix(".wav"), rng)
    truth = hits_of(events) | {"played_by": [Path(font).stem, *([kit] if kit else [])]}
    if written := beats_of(file):
        placed = [(np.array(instants) - begin) / faster for instants in written]
        beats, downbeats = (each[(each >= 0) & (each < SECONDS)].tolist() for each in placed)
        truth |= {"beats": beats, "downbeats": downbeats}
    place.with_suffix(".json").write_text(json.dumps(truth))
    return place.with_suffix(".wav")


def beats_of(file: mido.MidiFile) -> tuple[list[float], list[float]] | None:
    """Instants of the quarters and of the first of each bar in seconds; None where notes keep no grid.

    Where bars are counted in eighths in threes, three of them are a beat.
    """
    time = ticks = 0.0
    tempo, beat, bar = 500_000, 1.0, 4.0
    beats: list[float] = []
    downbeats: list[float] = []
    since = due = counted = 0.0
    parts: list[float] = []
    for message in mido.merge_tracks(file.tracks):
        until = ticks + message.time
        while due < until:
            instant = time + (due - ticks) / file.ticks_per_beat * tempo / 1e6
            beats.append(instant)
            if counted % round(bar / beat) == 0:
                downbeats.append(instant)
            counted += 1
            due += beat * file.ticks_per_beat
        time += message.time / file.ticks_per_beat * tempo / 1e6
        ticks = until
        if message.type == "set_tempo":
            tempo = message.tempo
        elif message.type == "time_signature":
            eighths = message.denominator == 8 and message.numerator % 3 == 0
            beat = 1.5 if eighths else 4 / message.denominator if message.denominator < 8 else 1.0
            bar = max(beat, message.numerator * 4 / message.denominator)
            since = due = ticks
            counted = 0.0
        elif _is_note(message):
            parts.append((ticks - since) / file.ticks_per_beat * PARTS % 1)
    off = np.abs((np.array(parts) + 0.5) % 1 - 0.5)
    return (beats, downbeats) if len(off) and np.mean(off <= ON_PART) >= ON_GRID else None


def stretch(file: mido.MidiFile, faster: float, begin: float) -> Events:
    """A stretch of the piece from ``begin`` seconds on, so many times as fast, instants in seconds; what was
    set before it is set at 0."""
    events, time = [], 0.0
    for message in file:
        time += message.time
        at = (time - begin) / faster
        if at > SECONDS:
            break
        if hasattr(message, "channel") and (at >= 0 or message.type in ("program_change", "control_change")):
            events.append((max(0.0, at), message))
    silence = [
        mido.Message("control_change", channel=channel, control=ALL_SOUND_OFF) for channel in range(16)
    ]
    return events + [(SECONDS, message) for message in silence]


def arranged(events: Events, rng: np.random.Generator) -> Events:
    """The same notes in another key, with parts louder or softer and another drum kit."""
    higher = int(rng.integers(-HIGHER, HIGHER + 1))
    louder: dict[object, float] = defaultdict(lambda: 10 ** (rng.normal(0, PART_DB) / 40))
    kit = mido.Message("program_change", channel=DRUMS, program=int(rng.choice(KITS)))
    arranged: Events = [(0.0, kit)]
    for time, message in events:
        if _is_note(message):
            drum = message.channel == DRUMS
            key = SAME_KEY.get(message.note, message.note) if drum else message.note + higher
            part = (message.channel, KINDS.get(key) if drum else None)
            velocity = int(np.clip(message.velocity * louder[part], 12, 127))
            arranged.append((time, message.copy(note=int(np.clip(key, 0, 127)), velocity=velocity)))
        elif message.type in ("note_on", "note_off") and message.channel != DRUMS:
            arranged.append((time, message.copy(note=int(np.clip(message.note + higher, 0, 127)))))
        elif message.type != "program_change" or message.channel != DRUMS:
            arranged.append((time, message))
    return arranged


def hits_of(events: Events) -> Truth:
    """The hits among the notes; a channel is a bass while its program is one."""
    truth: Truth = {kind: [] for kind in HIT_KINDS}
    programs: dict[int, int] = defaultdict(int)
    for time, message in events:
        if message.type == "program_change":
            programs[message.channel] = message.program
        elif _is_note(message):
            kind = kind_of(message.channel, message.note, programs[message.channel] in BASSES)
            truth[kind].append([time, message.velocity / 127])
    return truth


def _is_note(message: mido.Message) -> bool:
    return message.type == "note_on" and message.velocity > 0
