"""Practice songs in the many styles of Debian's ``mma``, a free accompaniment generator.

    apt install mma

It writes the MIDI file of a style over given chords; tempo, chords and the order of
a style's variations are drawn at random, and the truth is read from the file.
"""

from __future__ import annotations

import json
import re
import subprocess
from pathlib import Path

import mido
import numpy as np

from izmet.sound.hits import KINDS as HIT_KINDS
from scripts.learning.practice import SOUNDFONTS, Truth, colour, kind_of, play

LIBRARY = Path("/usr/share/mma/lib/stdlib")
BARS = 20
SEQUENCES = (
    ("C", "Am", "F", "G"),
    ("Dm", "G7", "C", "C"),
    ("Am", "F", "C", "G"),
    ("C7", "F7", "C7", "G7"),
    ("Em", "A7", "D", "G"),
)
SLOW, QUICK = (
    re.compile("slow|ballad|bolero|lullab|soul|blues", re.I),
    re.compile("fast|swing|polka|boogie|jive|punk|bluegrass|ska", re.I),
)


def styles() -> list[tuple[str, int, list[str]]]:
    """Styles in three or four: (name, beats a bar, its grooves, the plain one first)."""
    found = []
    for path in sorted(LIBRARY.glob("*.mma")):
        text = path.read_text(errors="replace")
        meter = re.search(r"^\s*Time(?:Sig)?\s+([34])(?:\s+4)?\s*$", text, re.M | re.I)
        grooves = re.findall(r"^\s*DefGroove\s+(\S+)", text, re.M | re.I)
        if (
            meter
            and grooves
            and not re.search(r"^\s*Time\s+(2|5|6|7|12)\b|^\s*TimeSig\s+\d+\s+8", text, re.I | re.M)
        ):
            found.append((path.stem, int(meter[1]), grooves))
    return found


def write_style(name: str, meter: int, grooves: list[str], version: int, folder: Path) -> Path | None:
    """Write a song in a style as wav with its truth as json. Returns the wav, None where mma refuses."""
    rng = np.random.default_rng([version, *name.encode()])
    low, high = (62, 95) if SLOW.search(name) else (120, 185) if QUICK.search(name) else (84, 140)
    tempo = int(rng.uniform(low, high) * (1.25 if meter == 3 else 1))
    chords = SEQUENCES[rng.integers(len(SEQUENCES))]
    lines = [f"Tempo {tempo}", f"Groove {grooves[0]}"]
    plain = [groove for groove in grooves if not re.search("end|intro", groove, re.I)] or grooves
    for bar in range(BARS):
        if bar and bar % 4 == 0:
            lines.append(f"Groove {rng.choice(plain)}")
        lines.append(f"{bar + 1} {chords[bar % len(chords)]}")
    place = folder / f"style_{name}-{version}"
    source, midi = place.with_suffix(".mma"), place.with_suffix(".mid")
    source.write_text("\n".join(lines))
    done = subprocess.run(["mma", "-f", str(midi), str(source)], capture_output=True, text=True)
    if done.returncode or not midi.exists():
        return None
    font = SOUNDFONTS[int(rng.integers(len(SOUNDFONTS)))]
    play(midi, place.with_suffix(".wav"), font, bool(rng.random() < 0.5))
    colour(place.with_suffix(".wav"), rng)
    truth = _truth(midi, name, meter, tempo) | {"played_by": [Path(font).stem]}
    place.with_suffix(".json").write_text(json.dumps(truth))
    return place.with_suffix(".wav")


def _truth(midi: Path, name: str, meter: int, tempo: int) -> dict[str, object]:
    truth: Truth = {kind: [] for kind in HIT_KINDS}
    file = mido.MidiFile(midi)
    for track in file.tracks:
        bass = re.match("bass|walk", track.name, re.I) is not None
        ticks = 0
        for message in track:
            ticks += message.time
            if message.type == "note_on" and message.velocity > 0:
                time = ticks / file.ticks_per_beat * 60 / tempo
                truth[kind_of(message.channel, message.note, bass)].append([time, message.velocity / 127])
    beats = [beat * 60 / tempo for beat in range(BARS * meter)]
    return {
        **{kind: sorted(hits) for kind, hits in truth.items()},
        "beats": beats,
        "downbeats": beats[::meter],
        "meter": meter,
        "groove": name,
    }
