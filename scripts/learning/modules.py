"""Songs that people composed as tracker modules: the music of Debian's free games.

    apt install libopenmpt0 pingus-data tecnoballz-data pekka-kana-2-data heroes-sound-tracks gl-117-data
    apt install freedroid-data biniax2-data flobopuyo rafkill-data pachi-data bomberclone-data madbomber-data
    apt install njam-data solarwolf dodgindiamond2 vectoroids tomatoes-data monsterz-data open-invaders-data
    apt install rockdodger penguin-command pathogen gweled ri-li-data vodovod

A module is a table of rows, so the instant of each row is known as it is played. How many rows
make a beat is not written: it is the usual 4, or 3 where the rows go in threes, doubled or halved
until the beat has a usual tempo (common practice, no source).
"""

from __future__ import annotations

import ctypes
import gzip
import json
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

Doubles = NDArray[np.float64]

PLACES = tuple(
    Path("/usr/share") / name
    for name in ("games", "open-invaders", "pachi", "pathogen", "rockdodger", "sounds/gweled", "tomatoes")
)
ENDINGS = (".mod", ".xm", ".s3m", ".it", ".stm", ".s3mgz")
RATE, SECONDS, SHORTEST = 44100, 100.0, 12.0
STEP = 32
"""Samples that are played between two looks at the row."""
SLOWEST, FASTEST = 72.0, 170.0
"""The usual tempos: the beat is doubled or halved until it lies among them."""
THREES = 1.25
"""How much likelier a note on every third row is than one on every fourth where rows go in threes."""
BEATS_A_BAR = 4


@dataclass(frozen=True)
class Played:
    """A module as it is played: samples of shape (count, 2); instant, number and notes of each row."""

    samples: NDArray[np.float32]
    times: Doubles
    rows: NDArray[np.int64]
    notes: NDArray[np.int64]


def modules() -> Iterator[Path]:
    """The modules that are installed."""
    for place in PLACES:
        yield from sorted(path for path in place.rglob("*") if path.suffix.lower() in ENDINGS)


def write_module(path: Path, folder: Path) -> Path | None:
    """Play a module as wav with its beats as json. Returns the wav, None where it is a sound and no song."""
    played = _played(path)
    if played is None or len(played.samples) < SHORTEST * RATE or not np.abs(played.samples).max() > 0:
        return None
    a_beat = _rows_of_a_beat(played)
    on = np.flatnonzero(played.rows % a_beat == 0)
    if len(on) < 2 * BEATS_A_BAR:
        return None
    bar = played.rows[on] % (a_beat * BEATS_A_BAR) == 0
    place = folder / f"module_{path.parent.parent.name}-{path.stem.replace(' ', '_').lower()}-0"
    soundfile.write(place.with_suffix(".wav"), played.samples / np.abs(played.samples).max() * 0.9, RATE)
    truth = {
        "beats": played.times[on].tolist(),
        "downbeats": played.times[on[bar]].tolist(),
        "composer": next(part for part in path.parts[3:] if part not in ("games", "sounds")),
        "played_by": [path.stem],
    }
    place.with_suffix(".json").write_text(json.dumps(truth))
    return place.with_suffix(".wav")


def _rows_of_a_beat(played: Played) -> int:
    def heard(every: int) -> float:
        return float(played.notes[played.rows % every == 0].mean())

    a_beat = 3 if heard(3) > THREES * heard(4) else 4
    length = float(np.median(np.diff(played.times))) * a_beat
    while 60 / length > FASTEST:
        a_beat, length = 2 * a_beat, 2 * length
    while 60 / length < SLOWEST and a_beat % 2 == 0:
        a_beat, length = a_beat // 2, length / 2
    return a_beat


def _played(path: Path) -> Played | None:
    data = path.read_bytes()
    if data[:2] == b"\x1f\x8b":
        data = gzip.decompress(data)
    player = _library()
    module = player.openmpt_module_create_from_memory2(data, len(data), *[None] * 7)
    if not module:
        return None
    buffer = (ctypes.c_float * (2 * STEP))()
    blocks: list[NDArray[np.float32]] = []
    times, rows, notes = [], [], []
    last = None
    while len(blocks) * STEP < SECONDS * RATE:
        if player.openmpt_module_read_interleaved_float_stereo(module, RATE, STEP, buffer) < STEP:
            break
        blocks.append(np.array(buffer, np.float32))
        now = (
            player.openmpt_module_get_current_order(module),
            player.openmpt_module_get_current_row(module),
        )
        if now != last:
            last = now
            pattern = player.openmpt_module_get_current_pattern(module)
            times.append((len(blocks) - 1) * STEP / RATE)
            rows.append(now[1])
            notes.append(_notes(player, module, pattern, now[1]))
    player.openmpt_module_destroy(module)
    if len(rows) < 2:
        return None
    samples = np.concatenate(blocks).reshape(-1, 2)
    return Played(samples, np.array(times), np.array(rows), np.array(notes))


def _notes(player: ctypes.CDLL, module: int, pattern: int, row: int) -> int:
    """How many notes begin in a row; 0 is no note, from 128 on they are signs that end one."""
    channels = range(player.openmpt_module_get_num_channels(module))
    read = player.openmpt_module_get_pattern_row_channel_command
    return sum(0 < read(module, pattern, row, channel, 0) < 128 for channel in channels)


def _library() -> ctypes.CDLL:
    player = ctypes.CDLL("libopenmpt.so.0")
    create = player.openmpt_module_create_from_memory2
    create.restype = ctypes.c_void_p
    create.argtypes = [ctypes.c_char_p, ctypes.c_size_t, *[ctypes.c_void_p] * 7]
    for name in ("current_order", "current_row", "current_pattern", "num_channels"):
        getattr(player, f"openmpt_module_get_{name}").argtypes = [ctypes.c_void_p]
    read = player.openmpt_module_read_interleaved_float_stereo
    read.restype = ctypes.c_size_t
    read.argtypes = [ctypes.c_void_p, ctypes.c_int32, ctypes.c_size_t, ctypes.POINTER(ctypes.c_float)]
    command = player.openmpt_module_get_pattern_row_channel_command
    command.restype = ctypes.c_uint8
    command.argtypes = [ctypes.c_void_p, *[ctypes.c_int32] * 3, ctypes.c_int]
    player.openmpt_module_destroy.argtypes = [ctypes.c_void_p]
    return player
