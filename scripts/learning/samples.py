"""Sampled drums for practice songs: the drum kits and single samples that Debian packages.

    apt install hydrogen-data hydrogen-drumkits sonic-pi-samples

A kit plays what it has; what it lacks is taken from the others.
"""

from __future__ import annotations

import re
from collections import defaultdict
from functools import cache
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray

from scripts.learning import grooves
from scripts.learning.kits import RATE

Doubles = NDArray[np.float64]
Kit = dict[int, list[Path]]

KITS = Path("/usr/share/hydrogen/data/drumkits")
SINGLES = Path("/usr/share/sonic-pi/samples")
NAMES = (
    (grooves.KICK, r"kick|bass ?drum|^bd_|^drum_bass"),
    (grooves.SIDE, r"stick|side|rim|click"),
    (grooves.SNARE, r"snare|^sn_"),
    (grooves.CLAP, r"clap|snap"),
    (grooves.OPEN, r"(hh|hat).*op|op.*(hh|hat)|ohh|cymbal_open"),
    (grooves.PEDAL, r"(hh|hat).*p(d|edal)|p(d|edal).*(hh|hat)|cymbal_pedal"),
    (grooves.HAT, r"hh|hat|cymbal_closed"),
    (grooves.TOM_HIGH, r"tom.*(hi|2)|(hi|high) ?tom"),
    (grooves.TOM_LOW, r"tom|conga"),
    (grooves.RIDE, r"ride"),
    (grooves.CRASH, r"crash|cymbal|splash"),
    (grooves.TAMBOURINE, r"tambourine"),
    (grooves.SHAKER, r"shaker|maraca"),
    (grooves.CLAVES, r"clave|woodblock|cowbell"),
)
"""What a sample is, by its name; the first that fits."""
BEGINS = 0.04
"""Part of its peak at which a sample begins."""
LONGEST_SECONDS = 1.5
SEMITONES = 2.0


def kit_names() -> list[str]:
    """The kits that have a kick, a snare and a hat."""
    return [name for name, kit in _kits().items() if {grooves.KICK, grooves.SNARE, grooves.HAT} <= kit.keys()]


def sampled_kit(name: str, rng: np.random.Generator) -> dict[int, Doubles]:
    """A sound for every drum key, shape (count,), the loudest sample 1; tuned a little up or down."""
    kits = _kits()
    everything: Kit = defaultdict(list)
    for kit in kits.values():
        for key, paths in kit.items():
            everything[key] += paths
    tuning = 2 ** (rng.uniform(-SEMITONES, SEMITONES) / 12)
    return {
        key: _sound(Path(rng.choice([str(path) for path in kits[name].get(key, paths)])), tuning)
        for key, paths in everything.items()
    }


@cache
def _kits() -> dict[str, Kit]:
    kits: dict[str, Kit] = {}
    for folder in sorted(KITS.iterdir()):
        kit: Kit = defaultdict(list)
        for instrument in ElementTree.parse(folder / "drumkit.xml").iter():
            if instrument.tag.endswith("instrument"):
                fields = [(field.tag.rpartition("}")[2], field.text or "") for field in instrument.iter()]
                key = _key(next((text for tag, text in fields if tag == "name"), ""))
                files = [folder / text for tag, text in fields if tag == "filename"]
                if key is not None:
                    kit[key] += [file for file in files if file.exists()]
        kits[folder.name] = {key: files for key, files in kit.items() if files}
    singles: Kit = defaultdict(list)
    for file in sorted(SINGLES.glob("*.flac")):
        key = _key(file.stem)
        if key is not None and not file.stem.startswith(("loop", "ambi")):
            singles[key].append(file)
    return kits | {"singles": dict(singles)}


def _key(name: str) -> int | None:
    return next((key for key, pattern in NAMES if re.search(pattern, name, re.I)), None)


def _sound(path: Path, tuning: float) -> Doubles:
    samples, rate = soundfile.read(path, always_2d=True)
    mono = soxr.resample(samples.mean(axis=1), rate * tuning, RATE)
    begins = int(np.argmax(np.abs(mono) >= BEGINS * np.abs(mono).max()))
    heard = mono[begins : begins + round(LONGEST_SECONDS * RATE)]
    fade = np.minimum(1, np.arange(len(heard), 0, -1) / (0.02 * RATE))
    return heard * fade / max(float(np.abs(heard).max()), 1e-9)
