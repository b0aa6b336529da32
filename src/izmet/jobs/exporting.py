"""Exporting an edit: the file, and a report of where everything landed in it."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

from izmet.core.document.edit import Edit
from izmet.core.document.refusal import Refusal
from izmet.core.following.workings import derive
from izmet.core.shown.framemap import FrameMap
from izmet.core.shown.landing import Landing
from izmet.core.shown.mix import SONG, voices
from izmet.core.shown.stack import frames_exported
from izmet.jobs.delivery import Delivery
from izmet.material.mixes import sources_of
from izmet.material.reading import Progress
from izmet.material.takes import table_of
from izmet.media.formats import FORMATS, Format
from izmet.media.readback import Measured, Reading, Whole, measure, whole
from izmet.media.render import Maker, make_parts, render, sound_under
from izmet.media.sampling import TakeFile, counted_in
from izmet.media.songfile import read_song
from izmet.media.stills import pictures_in
from izmet.sound.levelling import levelled
from izmet.sound.limiter import CEILING
from izmet.sound.loudness import Loudness, decibels, told
from izmet.sound.mixer import Mixer
from izmet.store.assets import Assets

TRIES, MARGIN, LEAST_STEP = 12, 0.99, 10 ** (-0.4 / 20)
"""How often sound is coded anew until its codec keeps to the ceiling; how far below what just would, and how
far below the try before at least: by how much a codec overshoots changes with every bit that it is given."""
NOTHING_SEEN = Reading(landings=[], flashing=[])
SOUND_SLACK_SECONDS = 0.1
"""Codecs write sound in blocks: so much longer or shorter than the pictures it may be."""


def export_stored(
    assets: Assets,
    edit: Edit,
    out: Path,
    asked: Delivery,
    progress: Progress,
    kept: Path,
    begun: Callable[[str], None] = lambda clip: None,
    maker: Maker = make_parts,
) -> dict[str, Any]:
    """Export an edit whose media are assets. Returns the report as JSON values.

    Args:
        begun: told each clip's id as its pictures begin to be made.
        maker: sees to it that the parts are made.

    Raises:
        Refusal: media that is missing, or anything that ``render`` refuses.
    """
    edit = asked.of(edit)
    takes = takes_of(assets, edit)
    sources = sources_of(assets, edit)
    if edit.song is not None:
        song = edit.song.media
        # Finer than what is played.
        sources[SONG] = read_song(assets.path(song.sha256 or ""), song.name, out.parent)
    mix = Mixer.of(voices(edit), sources)
    return export(edit, takes, mix, out, asked, progress, kept, begun, maker)


def takes_of(assets: Assets, edit: Edit) -> dict[str, TakeFile]:
    """The files of the takes that an edit's clips show. Raises Refusal when one is missing."""
    gone = assets.missing(edit)
    if gone:
        raise Refusal(
            "media-missing",
            f"Files are missing: {', '.join(gone)}.",
            edit.title,
            "Link each of them again, then export.",
        )
    used = {clip.take for clip in edit.clips}
    return {
        take.id: TakeFile(assets.path(take.media.sha256 or ""), take.media.name, table_of(assets, take.media))
        for take in edit.takes
        if take.id in used
    }


def export(
    edit: Edit,
    takes: Mapping[str, TakeFile],
    mix: Mixer,
    out: Path,
    asked: Delivery,
    progress: Progress,
    kept: Path | None = None,
    begun: Callable[[str], None] = lambda clip: None,
    maker: Maker = make_parts,
) -> dict[str, Any]:
    """Render an edit to ``out``, read the file back, and report every landing, planned and measured.

    The edit is in the form that is asked already (``Delivery.of``), and so is its mix. A mix without voices
    gives a file without sound. ``kept`` is a folder of parts made before.
    """
    counted = counted_in(takes)
    shown = frames_exported(edit, counted)
    chosen = FORMATS[asked.format]
    pictures = chosen.video is not None
    heard = mix if mix.voices and chosen.sound else None
    with _folder(kept, out) as folder:
        ceiling = CEILING
        for _ in range(TRIES):
            if heard is not None:
                heard = _brought(edit, shown, replace(mix, ceiling=ceiling), asked)
            how = (asked.quality, asked.chapters)
            render(edit, takes, heard, out, asked.format, progress, folder, begun, *how, maker)
            found = None if heard is None else _loudness(out)
            if found is None or found.true_peak <= CEILING:
                break
            # What a codec makes of a wave reaches higher than the wave: the mix is kept that much lower.
            ceiling *= min(LEAST_STEP, MARGIN * CEILING / found.true_peak)
    inside = range(shown.first, shown.first + len(shown))
    landings = [landing for landing in derive(edit, counted).landings if landing.wanted_frame in inside]
    landings = landings if pictures else []
    reading = measure(edit, shown, landings, takes, heard, out) if pictures else NOTHING_SEEN
    held = _held(out, chosen, shown, edit)
    seconds = len(shown) / float(edit.rate)
    sounds = heard is None or abs((held.sound_seconds or 0.0) - seconds) < SOUND_SLACK_SECONDS
    pairs = list(zip(landings, reading.landings, strict=True))
    frames = len(shown) if chosen.pictures else 0
    complete = held.frames == frames and sounds
    return {
        "first_frame": shown.first,
        "frames": frames,
        "rate": str(edit.rate),
        "landings": [_line(*pair) for pair in pairs],
        "flashing": [each._asdict() for each in reading.flashing],
        "measured_frames": held.frames,
        "measured_sound": held.sound_seconds,
        **({} if found is None else _levels(found)),
        "complete": complete,
        "all_exact": complete
        and all(
            m.measured_frame == line.wanted_frame for line, m in zip(landings, reading.landings, strict=True)
        ),
    }


@contextmanager
def _folder(kept: Path | None, out: Path) -> Iterator[Path]:
    """Where parts are kept, so that sound can be coded anew beneath them."""
    if kept is not None:
        yield kept
        return
    with tempfile.TemporaryDirectory(dir=out.parent, prefix=".parts-") as own:
        yield Path(own)


def _brought(edit: Edit, shown: FrameMap, mix: Mixer, asked: Delivery) -> Mixer:
    """The mix at the loudness that is asked."""
    if asked.loudness is None:
        return mix
    return levelled(sound_under(edit, shown, mix), asked.loudness).mixer


def _held(out: Path, chosen: Format, shown: FrameMap, edit: Edit) -> Whole:
    """What a finished file holds."""
    if chosen.stills is None:
        return whole(out)
    return Whole(frames=pictures_in(out, chosen.stills, edit.rate, len(shown)), sound_seconds=None)


def _loudness(out: Path) -> Loudness:
    """How loud a finished file is."""
    sound = read_song(out, out.name, out.parent)
    meter = Loudness(sound.rate, sound.channels)
    for block in sound.blocks():
        meter.add(block)
    return meter


def _levels(heard: Loudness) -> dict[str, float | None]:
    """In LUFS, and the true peak in dBTP; None for silence."""
    return {"loudness": told(heard.integrated), "true_peak": told(decibels(heard.true_peak))}


def _line(landing: Landing, measured: Measured) -> dict[str, Any]:
    return landing.model_dump() | {
        "measured_frame": measured.measured_frame,
        "measured_residual_ms": measured.residual_ms,
        "sound_offset_ms": measured.sound_offset_ms,
    }
