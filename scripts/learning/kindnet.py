"""Training the net that tells kinds of hits, with PyTorch: ``pip install torch``.

First it learns hits one by one, then, with its kernels as they are, runs of hits: what
is struck before and after tells something of each. Each time a picture is shown it is
bent as another kit and another mix would show it (``bending``).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice, pairwise
from typing import Any

import numpy as np
import torch
from numpy.typing import NDArray
from torch import nn
from torch.nn import functional

from izmet.sound.kindnet import KERNEL, POOLS, REACH, both_ways, gaps, strong_levels
from scripts.learning import bending

Doubles = NDArray[np.float64]
Floats = NDArray[np.float32]

CHANNELS = (16, 48, 96)
HIDDEN, SAID, HEARD = 128, 32, 64
"""Units: of each hit, of each hit for those around it, of all that is around one."""
DROPPED = 0.3
ROUNDS, BATCH, FASTEST = 4.5, 256, 3e-3
RUN_ROUNDS, RUNS, RUN, RUN_FASTEST = 2.0, 5, 64, (5e-4, 3e-3)
"""How many runs of how many hits are learned together; the pace of the old units and of the new ones."""
MIXED, RUN_MIXED = 0.3, 0.2
"""The part of pictures that another one is laid over, alone and in runs."""


@dataclass(frozen=True)
class Song:
    """The candidate hits of a song in order of time, and which kinds each is of, shape (hits, kinds + 1)."""

    pictures: NDArray[np.float16]
    times: Doubles
    kinds: NDArray[np.bool_]


class KindNet(nn.Module):  # type: ignore[misc]  # PyTorch is not installed where this is checked
    """The net of ``izmet.sound.kindnet`` as PyTorch trains it, for pictures of some shape."""

    def __init__(self, shape: tuple[int, int, int], kinds: int):
        super().__init__()
        self.kernels = nn.ModuleList(
            [nn.Conv2d(*pair, KERNEL, bias=False) for pair in pairwise((2 * shape[2], *CHANNELS))]
        )
        self.norms = nn.ModuleList([nn.BatchNorm2d(count) for count in CHANNELS])
        self.drop = nn.Dropout(DROPPED)
        size = self._seen(torch.zeros(1, *shape[:2], 2 * shape[2])).shape[1]
        self.hidden, self.told = nn.Linear(size, HIDDEN), nn.Linear(HIDDEN, kinds)
        self.said = nn.Linear(HIDDEN, SAID)
        self.around = nn.Linear((2 * REACH + 1) * (SAID + 1), HEARD)
        self.tells = nn.Linear(HEARD, kinds, bias=False)
        nn.init.zeros_(self.tells.weight)

    def _seen(self, pictures: torch.Tensor) -> torch.Tensor:
        seen = pictures.permute(0, 3, 1, 2)
        for kernel, norm, pool in zip(self.kernels, self.norms, POOLS, strict=True):
            seen = functional.relu(norm(functional.max_pool2d(kernel(seen), pool)))
        return seen.permute(0, 2, 3, 1).flatten(1)  # channels last, as numpy will have them

    def _hidden(self, pictures: torch.Tensor) -> torch.Tensor:
        return functional.relu(self.hidden(self.drop(self._seen(pictures))))

    def alone(self, pictures: torch.Tensor) -> torch.Tensor:
        """Of which kinds hits are, shape (hits, kinds), by themselves."""
        return self.told(self.drop(self._hidden(pictures)))

    def among(self, pictures: torch.Tensor, apart: torch.Tensor, there: torch.Tensor) -> torch.Tensor:
        """Of which kinds the hits of runs are, with those around them.

        Args:
            pictures: shape (runs, hits, moments, bands, 4); the first and last ``REACH`` are heard only.
            apart: ``gaps``, shape (runs, hits, 2 · REACH + 1).
            there: 0 beyond the ends of the song, shape (runs, hits).
        """
        inner = slice(REACH, -REACH)
        hidden = self._hidden(pictures.flatten(0, 1)).unflatten(0, pictures.shape[:2])
        said = functional.relu(self.said(self.drop(hidden))) * there[:, :, None]
        window = said.unfold(1, 2 * REACH + 1, 1).transpose(2, 3).flatten(2)
        heard = functional.relu(self.around(torch.cat([window, apart[:, inner]], dim=2)))
        return self.told(self.drop(hidden[:, inner])) + self.tells(self.drop(heard))


def fit(songs: list[Song]) -> dict[str, Any]:
    """The weights named ``kind_*``."""
    torch.manual_seed(0)
    rng = np.random.default_rng(0)
    pictures = np.concatenate([song.pictures for song in songs])
    usual = _usual(songs)
    net = KindNet(pictures.shape[1:], songs[0].kinds.shape[1]).to(memory_format=torch.channels_last)
    _learn_alone(net, songs, pictures, usual, rng)
    _learn_among(net, songs, usual, rng)
    return dict(zip(("kind_mean", "kind_scale"), usual, strict=True)) | _arrays(net)


def _usual(songs: list[Song]) -> tuple[Floats, Floats]:
    """Mean and scale of all pictures, each of shape (2,)."""
    counts = [len(song.pictures) for song in songs]
    axes = (0, 1, 2)
    means = np.array([song.pictures.mean(axis=axes, dtype=np.float32) for song in songs])
    squares = np.array([(song.pictures.astype(np.float32) ** 2).mean(axis=axes) for song in songs])
    mean, square = (np.average(each, axis=0, weights=counts) for each in (means, squares))
    return mean.astype(np.float32), np.sqrt(square - mean**2).astype(np.float32)


def _learn_alone(
    net: KindNet,
    songs: list[Song],
    pictures: NDArray[np.float16],
    usual: tuple[Floats, Floats],
    rng: np.random.Generator,
) -> None:
    """Learn hits one by one, in any order; ``pictures`` are those of all songs."""
    strong = np.concatenate([np.tile(_strong(song), (len(song.pictures), 1, 1)) for song in songs])
    kinds = np.concatenate([song.kinds for song in songs])
    optimizer = torch.optim.Adam(net.parameters())
    steps = int(ROUNDS * (len(pictures) // BATCH))
    pace = torch.optim.lr_scheduler.OneCycleLR(optimizer, FASTEST, total_steps=steps)
    for batch in islice(_batches(len(pictures), rng), steps):
        shown, true = _bent(pictures[batch][:, None], strong[batch], kinds[batch][:, None], MIXED, usual, rng)
        optimizer.zero_grad()
        functional.binary_cross_entropy_with_logits(net.alone(shown[:, 0]), true[:, 0]).backward()
        optimizer.step()
        pace.step()


def _batches(count: int, rng: np.random.Generator) -> Iterator[NDArray[np.intp]]:
    """Places of hits to learn together, each once before any comes again."""
    while True:
        yield from rng.permutation(count)[: count // BATCH * BATCH].reshape(-1, BATCH)


def _learn_among(
    net: KindNet, songs: list[Song], usual: tuple[Floats, Floats], rng: np.random.Generator
) -> None:
    """Learn runs of hits; the kernels and norms stay as they are."""
    net.kernels.requires_grad_(False)
    net.norms.requires_grad_(False).eval()
    known, fresh = (net.hidden, net.told), (net.said, net.around, net.tells)
    optimizer = torch.optim.Adam(
        [{"params": [each for part in parts for each in part.parameters()]} for parts in (known, fresh)]
    )
    padded = [_padded(song) for song in songs]
    strong = [_strong(song) for song in songs]
    steps = int(RUN_ROUNDS * (sum(1 for _ in _runs(songs, rng)) // RUNS))
    pace = torch.optim.lr_scheduler.OneCycleLR(optimizer, list(RUN_FASTEST), total_steps=steps)
    waiting: list[tuple[int, int]] = []
    for _ in range(steps):
        if len(waiting) < RUNS:
            waiting = [*_runs(songs, rng)]
            rng.shuffle(waiting)
        chosen = [waiting.pop() for _ in range(RUNS)]
        parts = [[rows[begin : begin + RUN + 2 * REACH] for rows in padded[song]] for song, begin in chosen]
        pictures, kinds, apart, there = (np.stack(each) for each in zip(*parts, strict=True))
        loud = np.stack([strong[song] for song, _ in chosen])
        shown, true = _bent(pictures, loud, kinds, RUN_MIXED, usual, rng)
        told = net.among(shown, torch.from_numpy(apart), torch.from_numpy(there))
        inner = slice(REACH, -REACH)
        wrong = functional.binary_cross_entropy_with_logits(told, true[:, inner], reduction="none").mean(
            dim=2
        )
        counts = torch.from_numpy(there[:, inner])
        optimizer.zero_grad()
        ((wrong * counts).sum() / counts.sum()).backward()
        optimizer.step()
        pace.step()


def _bent(
    pictures: NDArray[np.float16],
    strong: Floats,
    kinds: NDArray[np.bool_] | Floats,
    mixed: float,
    usual: tuple[Floats, Floats],
    rng: np.random.Generator,
) -> tuple[torch.Tensor, torch.Tensor]:
    """What the net is shown of pictures, as they are and against strong hits, and the kinds.

    ``usual`` are mean and scale of all pictures, each of shape (2,).
    """
    levels, strong, kinds = bending.bent(pictures.astype(np.float32), strong, kinds, mixed, rng)
    shown = both_ways(levels, strong[:, None, None], *usual)
    return torch.from_numpy(shown), torch.from_numpy(kinds)


def _strong(song: Song) -> Floats:
    return strong_levels(song.pictures.astype(np.float32))


def _runs(songs: list[Song], rng: np.random.Generator) -> Iterator[tuple[int, int]]:
    """All songs cut into runs, each time at other places: which song, and the first hit."""
    for index, song in enumerate(songs):
        for begin in range(int(rng.integers(-RUN // 2, 1)), len(song.times), RUN):
            yield index, max(begin, 0)


def _padded(song: Song) -> tuple[NDArray[np.float16], Floats, Floats, Floats]:
    """Pictures, kinds, gaps and what is there, with room for what lies around the first and the last run."""
    room = (REACH, REACH + RUN)
    count = len(song.times)
    return (
        np.pad(song.pictures, (room, (0, 0), (0, 0), (0, 0))),
        np.pad(song.kinds.astype(np.float32), (room, (0, 0))),
        np.pad(gaps(song.times).astype(np.float32), (room, (0, 0))),
        np.pad(np.ones(count, np.float32), room),
    )


def _arrays(net: KindNet) -> dict[str, Doubles]:
    """The weights as ``izmet.sound.kindnet`` reads them: of the norms, a gain and a bias."""
    arrays: dict[str, Doubles] = {}
    for layer, (kernel, norm) in enumerate(zip(net.kernels, net.norms, strict=True), start=1):
        gain = norm.weight / torch.sqrt(norm.running_var + norm.eps)
        arrays[f"kind_kernels_{layer}"] = kernel.weight.detach().numpy().transpose(1, 2, 3, 0)
        arrays[f"kind_gain_{layer}"] = gain.detach().numpy()
        arrays[f"kind_kernel_bias_{layer}"] = (norm.bias - norm.running_mean * gain).detach().numpy()
    for name in ("hidden", "told", "said", "around", "tells"):
        arrays[f"kind_{name}"] = getattr(net, name).weight.detach().numpy().T
    for name in ("hidden", "told", "said", "around"):
        arrays[f"kind_{name}_bias"] = getattr(net, name).bias.detach().numpy()
    return arrays
