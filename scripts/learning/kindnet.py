"""Training the net that tells kinds of hits, with PyTorch: ``pip install torch``.

Each time a picture is shown it is changed as other drums and other mixes would change
it: its tone is bent, its pitch moved by a band, and some are laid over each other, for
drums fall together. The song's strong hits are bent with it.
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import torch
from numpy.typing import NDArray
from torch import nn
from torch.nn import functional

from izmet.sound.kindnet import KERNEL, POOLS

Doubles = NDArray[np.float64]
Floats = NDArray[np.float32]

CHANNELS = (16, 32, 64)
HIDDEN = 96
DROPPED = 0.3
ROUNDS, BATCH, FASTEST = 6, 256, 3e-3
TONE_DB, LEVEL_DB, KNOTS = 4.0, 3.0, 5
MIXED, MIX_DB = 0.3, (-8.0, 4.0)
"""The part of pictures that another one is laid over, and how loud against them."""


class KindNet(nn.Module):
    """The net of ``izmet.sound.kindnet`` as PyTorch trains it, for pictures of some shape."""

    def __init__(self, shape: tuple[int, int], kinds: int):
        super().__init__()
        self.kernels = nn.ModuleList([nn.Conv2d(*pair, KERNEL) for pair in pairwise((2, *CHANNELS))])
        self.norms = nn.ModuleList([nn.BatchNorm2d(count) for count in CHANNELS])
        self.drop = nn.Dropout(DROPPED)
        size = self._seen(torch.zeros(1, *shape, 2)).shape[1]
        self.dense = nn.ModuleList([nn.Linear(size, HIDDEN), nn.Linear(HIDDEN, kinds)])

    def _seen(self, pictures: torch.Tensor) -> torch.Tensor:
        seen = pictures.permute(0, 3, 1, 2)
        for kernel, norm, pool in zip(self.kernels, self.norms, POOLS, strict=True):
            seen = functional.relu(functional.max_pool2d(norm(kernel(seen)), pool))
        return seen.permute(0, 2, 3, 1).flatten(1)  # channels last, as numpy will have them

    def forward(self, pictures: torch.Tensor) -> torch.Tensor:
        hidden = functional.relu(self.dense[0](self.drop(self._seen(pictures))))
        return self.dense[1](self.drop(hidden))


def fit(pictures: Floats, strong: Floats, kinds: NDArray[np.bool_]) -> dict[str, Doubles]:
    """The weights named ``kind_*``.

    Args:
        pictures: shape (hits, moments, bands), of all songs.
        strong: the level that the strong hits of each one's song reach, shape (hits, bands).
        kinds: which kinds each is of, shape (hits, kinds + 1).
    """
    torch.manual_seed(0)
    rng = np.random.default_rng(0)
    mean, scale = float(pictures.mean(dtype=np.float64)), float(pictures.std(dtype=np.float64))
    net = KindNet(pictures.shape[1:], kinds.shape[1]).to(memory_format=torch.channels_last)
    steps = ROUNDS * (len(pictures) // BATCH)
    optimizer = torch.optim.Adam(net.parameters())
    pace = torch.optim.lr_scheduler.OneCycleLR(optimizer, FASTEST, total_steps=steps)
    for _ in range(ROUNDS):
        order = rng.permutation(len(pictures))
        for batch in order[: len(order) // BATCH * BATCH].reshape(-1, BATCH):
            shown, song, true = _changed(pictures[batch], strong[batch], kinds[batch].astype(np.float32), rng)
            both = np.stack([shown - mean, shown - song[:, None]], axis=-1) / scale
            told = net(torch.from_numpy(both.astype(np.float32)))
            optimizer.zero_grad()
            functional.binary_cross_entropy_with_logits(told, torch.from_numpy(true)).backward()
            optimizer.step()
            pace.step()
    return {"kind_mean": np.array(mean), "kind_scale": np.array(scale)} | _arrays(net)


def _changed(
    pictures: Floats, strong: Floats, kinds: Floats, rng: np.random.Generator
) -> tuple[Floats, Floats, Floats]:
    """The pictures and strong levels as other kits and mixes would show them, and the kinds."""
    count, _, bands = pictures.shape
    power = 10.0**pictures - 1
    knots = rng.normal(0, TONE_DB, (count, KNOTS))
    place = np.linspace(0, KNOTS - 1, bands)
    tone = np.array([np.interp(place, np.arange(KNOTS), each) for each in knots])
    decibels = tone + rng.normal(0, LEVEL_DB, (count, 1))
    gains, bands_higher = 10 ** (decibels / 10), rng.integers(-1, 2)
    power = np.roll(power * gains[:, None, :], bands_higher, axis=2)
    strong = np.log10(1 + np.roll((10.0**strong - 1) * gains, bands_higher, axis=1))
    mixed = np.flatnonzero(rng.random(count) < MIXED)
    other = rng.permutation(count)[: len(mixed)]
    gain = 10 ** (rng.uniform(*MIX_DB, len(mixed)) / 10)
    over, both = power[other] * gain[:, None, None], np.maximum(kinds[mixed], kinds[other])
    power[mixed] += over
    kinds = kinds.copy()
    kinds[mixed] = both
    return np.log10(1 + power).astype(np.float32), strong.astype(np.float32), kinds


def _arrays(net: KindNet) -> dict[str, Doubles]:
    """The weights as ``izmet.sound.kindnet`` reads them: the norms are folded into the kernels."""
    arrays: dict[str, Doubles] = {}
    for layer, (kernel, norm) in enumerate(zip(net.kernels, net.norms, strict=True), start=1):
        gain = norm.weight / torch.sqrt(norm.running_var + norm.eps)
        bias = (kernel.bias - norm.running_mean) * gain + norm.bias
        weights = kernel.weight * gain[:, None, None, None]
        arrays[f"kind_kernels_{layer}"] = weights.detach().numpy().transpose(1, 2, 3, 0)
        arrays[f"kind_kernel_bias_{layer}"] = bias.detach().numpy()
    for layer, dense in enumerate(net.dense, start=1):
        arrays[f"kind_weights_{layer}"] = dense.weight.detach().numpy().T
        arrays[f"kind_bias_{layer}"] = dense.bias.detach().numpy()
    return arrays
