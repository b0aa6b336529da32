"""Teaches ``izmet.sound.beatnet``, with PyTorch, on songs whose beats are known.

Every song is heard at its own speed and at others, so that the net meets each figure at many tempos;
while it learns, bands are shifted and made louder or softer as if by other instruments and mixes.

Source: M. Davies, S. Böck, EUSIPCO 2019, and S. Böck, M. Davies, ISMIR 2020, for the form of the net,
the widened targets and the copies at other speeds.
"""

from __future__ import annotations

import json
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
import torch
from numpy.typing import NDArray
from torch import nn
from torch.nn import functional

from izmet.sound.beatnet import DILATIONS, FIRST_TAPS, TAPS, TEMPOS, shown
from izmet.sound.mono import split
from izmet.sound.onsets import FRAME_RATE, PICTURED, RATE, find_onsets
from izmet.sound.source import Source

Doubles = NDArray[np.float64]
Floats = NDArray[np.float32]

FIRST, UNITS = 48, 28
EXCERPT, BATCH, ROUNDS = 2400, 12, 9
PACE, DROPPED, DECAY = 3e-3, 0.12, 1e-4
SPEEDS = (0.72, 1.36)
"""The factors within which a copy is faster."""
COPIES = 2
"""At other speeds, of each song."""
SHIFTED, LOUDER_DB = 2, 6.0
"""By how many bands an excerpt may be shifted, and how far each band's level may stray."""
BESIDE = (1.0, 0.5, 0.2)
"""How much a frame counts as a beat that lies so many frames beside one."""
TEMPO_COUNTS, TEMPO_SPREAD = 0.005, 1.5


@dataclass(frozen=True)
class Lesson:
    """A song as the net sees it, of shape (frames, bands), and the frames of its beats and downbeats."""

    name: str
    picture: NDArray[np.float16]
    beats: Doubles
    downbeats: Doubles


def lessons(paths: list[Path]) -> list[Lesson]:
    """The songs at these places, each at its own speed and at others."""
    with ProcessPoolExecutor() as pool:
        return [lesson for some in pool.map(_lessons, paths, chunksize=4) for lesson in some]


def _lessons(path: Path) -> list[Lesson]:
    torch.set_num_threads(1)
    samples, rate = soundfile.read(path, dtype="float32", always_2d=True)
    truth = json.loads(path.with_suffix(".json").read_text())
    rng = np.random.default_rng([*path.stem.encode()])
    made = []
    for speed in (1.0, *rng.uniform(*SPEEDS, COPIES)):
        # Heard as if its samples came faster, a song is faster and higher; the shift of bands takes that off.
        mono, _ = split(Source.of(samples, round(rate * speed)), RATE)
        picture = find_onsets(mono).picture.astype(np.float16)
        beats, downbeats = (np.array(truth[name]) / speed * FRAME_RATE for name in ("beats", "downbeats"))
        inside = (beats < len(picture)), (downbeats < len(picture))
        made.append(Lesson(path.stem, picture, beats[inside[0]], downbeats[inside[1]]))
    return made


class Net(nn.Module):  # type: ignore[misc]  # PyTorch is not installed where this is checked
    """The net of ``izmet.sound.beatnet``, from (songs, frames, 2 · bands) to scores of beats and tempos."""

    def __init__(self) -> None:
        super().__init__()
        self.first = nn.Conv1d(2 * PICTURED, FIRST, FIRST_TAPS, padding=FIRST_TAPS // 2)
        self.second = nn.Conv1d(FIRST, UNITS, 1)
        self.far = nn.ModuleList(
            nn.Conv1d(UNITS, UNITS, TAPS, dilation=each, padding=each * (TAPS // 2)) for each in DILATIONS
        )
        self.mixed = nn.ModuleList(nn.Conv1d(UNITS, UNITS, 1, bias=False) for _ in DILATIONS)
        self.told = nn.Conv1d(UNITS, 2, 1)
        self.tempo = nn.Linear(UNITS, len(TEMPOS))

    def forward(self, seen: torch.Tensor) -> tuple[torch.Tensor, torch.Tensor]:
        units = functional.elu(self.first(seen.transpose(1, 2)))
        units = functional.elu(self.second(functional.dropout(units, DROPPED, self.training)))
        for far, mixed in zip(self.far, self.mixed, strict=True):
            units = units + mixed(functional.dropout(functional.elu(far(units)), DROPPED, self.training))
        units = functional.elu(units)
        return self.told(units), self.tempo(units.mean(dim=2))

    def arrays(self) -> dict[str, Doubles]:
        """The weights, as ``izmet.sound.beatnet`` reads them."""

        def kernel(conv: nn.Conv1d) -> Doubles:
            return np.asarray(conv.weight.detach().numpy().transpose(2, 1, 0), np.float64)

        def bias(layer: nn.Module) -> Doubles:
            return np.asarray(layer.bias.detach().numpy(), np.float64)

        arrays = {
            "first": kernel(self.first),
            "first_bias": bias(self.first),
            "second": kernel(self.second)[0],
            "second_bias": bias(self.second),
            "told": kernel(self.told)[0],
            "told_bias": bias(self.told),
            "tempo": np.asarray(self.tempo.weight.detach().numpy().T, np.float64),
            "tempo_bias": bias(self.tempo),
        }
        for layer, (far, mixed) in enumerate(zip(self.far, self.mixed, strict=True)):
            arrays[f"far_{layer}"], arrays[f"far_bias_{layer}"] = kernel(far), bias(far)
            arrays[f"mixed_{layer}"] = kernel(mixed)[0]
        return {f"beatnet_{name}": array for name, array in arrays.items()}


def fit_beatnet(songs: list[Lesson], rounds: int = ROUNDS, seed: int = 0) -> dict[str, Doubles]:
    """Teach a net on songs, each met once a round in an excerpt of its own."""
    torch.manual_seed(seed)
    rng = np.random.default_rng(seed)
    net = Net()
    optimizer = torch.optim.AdamW(net.parameters(), PACE, weight_decay=DECAY)
    batches = rounds * (len(songs) // BATCH)
    pace = torch.optim.lr_scheduler.OneCycleLR(optimizer, PACE, total_steps=batches)
    for turn in range(rounds):
        lost = []
        order = rng.permutation(len(songs))
        for begin in range(0, len(order) - BATCH + 1, BATCH):
            seen, wanted, tempo = _batch([songs[at] for at in order[begin : begin + BATCH]], rng)
            told, tempos = net(seen)
            loss = functional.binary_cross_entropy_with_logits(told, wanted)
            slow = -(tempo * functional.log_softmax(tempos, dim=1)).sum(dim=1).mean()
            optimizer.zero_grad()
            (loss + TEMPO_COUNTS * slow).backward()
            nn.utils.clip_grad_norm_(net.parameters(), 1.0)
            optimizer.step()
            pace.step()
            lost.append((loss.item(), slow.item()))
        print(f"round {turn + 1}: lost {np.mean(lost, axis=0).round(4)}", flush=True)
    return net.arrays()


def _batch(songs: list[Lesson], rng: np.random.Generator) -> tuple[torch.Tensor, torch.Tensor, torch.Tensor]:
    seen = np.zeros((len(songs), EXCERPT, 2 * PICTURED), np.float32)
    wanted = np.zeros((len(songs), 2, EXCERPT), np.float32)
    tempo = np.zeros((len(songs), len(TEMPOS)), np.float32)
    for row, song in enumerate(songs):
        begin = int(rng.integers(max(1, len(song.picture) - EXCERPT)))
        bands = song.picture[begin : begin + EXCERPT].astype(np.float32)
        seen[row, : len(bands)] = shown(_coloured(bands, rng))
        for kind, frames in enumerate((song.beats, song.downbeats)):
            wanted[row, kind] = _target(frames - begin)
        tempo[row] = _tempo_target(song.beats)
    return torch.from_numpy(seen), torch.from_numpy(wanted), torch.from_numpy(tempo)


def _coloured(bands: Floats, rng: np.random.Generator) -> Floats:
    """The bands as another mix would have them: shifted, and along the spectrum louder or softer."""
    by = int(rng.integers(-SHIFTED, SHIFTED + 1))
    moved = np.roll(bands, by, axis=1)
    if by > 0:
        moved[:, :by] = bands[:, :1]
    elif by < 0:
        moved[:, by:] = bands[:, -1:]
    knots = rng.normal(0, LOUDER_DB / 2, 6)
    decibels = np.interp(np.linspace(0, 5, PICTURED), np.arange(6), knots)
    # The logarithm is of one more than the size: that is undone before the level is changed.
    sizes = (10**moved - 1) * 10 ** (decibels / 20) * 10 ** (rng.normal(0, LOUDER_DB) / 20)
    coloured: Floats = np.log10(1 + sizes).astype(np.float32)
    return coloured


def _target(frames: Doubles) -> Floats:
    target = np.zeros(EXCERPT + 2 * len(BESIDE), np.float32)
    at = np.round(frames).astype(int) + len(BESIDE)
    for off, value in enumerate(BESIDE):
        for place in {off, -off}:
            inside = at[(at + place >= 0) & (at + place < len(target))] + place
            target[inside] = np.maximum(target[inside], value)
    return target[len(BESIDE) : -len(BESIDE)]


def _tempo_target(beats: Doubles) -> Floats:
    tempo = 60 * FRAME_RATE / float(np.median(np.diff(beats)))
    place = np.log2(tempo / TEMPOS[0]) / np.log2(TEMPOS[1] / TEMPOS[0])
    near = np.exp(-0.5 * ((np.arange(len(TEMPOS)) - place) / TEMPO_SPREAD) ** 2) + 1e-9
    target: Floats = (near / near.sum()).astype(np.float32)
    return target
