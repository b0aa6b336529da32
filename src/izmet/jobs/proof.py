"""The landing report of an exported file as a page: to be read, printed and sent on, by itself.

For each landing it shows what was asked and what was measured, the pictures of the file one frame before it,
on it and one after it, and the sound of the file around the cue with the grid of frames over it. Nothing is
fetched: the pictures are in the page.
"""

from __future__ import annotations

import base64
from collections.abc import Mapping, Sequence
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
import simplejpeg

from izmet.core.document.cuekinds import CUE_KINDS
from izmet.core.document.rates import seconds_at
from izmet.core.retime.profile import Floats
from izmet.jobs.pages import PAGES
from izmet.media.pictures import decode_all
from izmet.media.songfile import read_song

AROUND = (-1, 0, 1)
"""Frames about a landing that are shown."""
WIDE, QUALITY = 360, 82
"""Pixels across of a picture in the page, and how well it is coded as JPEG, in per cent."""
HEARD_SECONDS, POINTS = 0.12, 480
"""To each side of a cue, and how many points draw the wave."""


class Shown(NamedTuple):
    """One landing in the page: its line of the report, its pictures by frame, and its wave."""

    line: Mapping[str, Any]
    kind: str
    pictures: list[tuple[int, str]]
    wave: str
    grid: list[float]
    landed: tuple[float, float]


def proof_page(report: Mapping[str, Any], exported: Path, title: str, said: str) -> str:
    """The page of a finished file.

    Args:
        report: as ``exporting.export`` gives it.
        said: in which form it went out, in words.
    """
    landings: Sequence[Mapping[str, Any]] = report["landings"]
    pictures = _pictures(exported, report, landings)
    heard = None
    if report.get("measured_sound"):
        heard = read_song(exported, exported.name, exported.parent)
    rate = Fraction(report["rate"])
    start = seconds_at(report["first_frame"], rate)
    shown = []
    for line in landings:
        begin, end = line["cue_time"] - HEARD_SECONDS, line["cue_time"] + HEARD_SECONDS
        wave = ""
        if heard is not None:
            first = round((begin - start) * heard.rate)
            wave = _drawn(heard.stretch(first, round(2 * HEARD_SECONDS * heard.rate)).mean(axis=1))
        frames = range(int(begin * rate) - 1, int(end * rate) + 2)
        placed = {n: _part(seconds_at(n, rate), begin, end) for n in frames}
        n = line["wanted_frame"]
        shown.append(
            Shown(
                line,
                CUE_KINDS[line["cue_kind"]].name,
                [(k, pictures[n + k]) for k in AROUND if n + k in pictures],
                wave,
                [part for part in placed.values() if 0 <= part <= 1],
                (_part(seconds_at(n, rate), begin, end), _part(seconds_at(n + 1, rate), begin, end)),
            )
        )
    return PAGES.get_template("proof.html").render(report=report, title=title, said=said, landings=shown)


def _part(instant: float, begin: float, end: float) -> float:
    return (instant - begin) / (end - begin)


def _pictures(
    exported: Path, report: Mapping[str, Any], landings: Sequence[Mapping[str, Any]]
) -> dict[int, str]:
    """The file's pictures about the landings, by output frame, as JPEG in base64."""
    wanted = {line["wanted_frame"] + k for line in landings for k in AROUND}
    found: dict[int, str] = {}
    if not wanted:
        return found
    for n, frame in enumerate(decode_all(exported, exported.name), start=report["first_frame"]):
        if n in wanted:
            high = 2 * round(WIDE * frame.height / frame.width / 2)
            picture = np.ascontiguousarray(frame.to_ndarray(width=WIDE, height=high, format="rgb24"))
            found[n] = base64.b64encode(simplejpeg.encode_jpeg(picture, QUALITY)).decode()
        if n > max(wanted):
            break
    return found


def _drawn(samples: Floats) -> str:
    """A wave as a path of SVG, in a box from 0 to 1 across and from −1 to 1 down."""
    edges = np.linspace(0, len(samples), POINTS + 1).astype(int)
    parts = [samples[a : max(b, a + 1)] for a, b in pairwise(edges)]
    top, low = [float(part.max()) for part in parts], [float(part.min()) for part in parts]
    across = np.arange(POINTS) / POINTS
    forth = [f"{x:.4f},{-y:.3f}" for x, y in zip(across, top, strict=True)]
    back = [f"{x:.4f},{-y:.3f}" for x, y in zip(across[::-1], low[::-1], strict=True)]
    return "M" + "L".join([*forth, *back]) + "Z"
