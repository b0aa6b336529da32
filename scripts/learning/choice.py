"""Learning to choose one of several candidates, with PyTorch: which train is the beat, where bars begin.

Each candidate has a score: its description, scaled, goes through weights straight and
through a small hidden layer. How likely it is, is the softmax of the scores over all
candidates of its song; ``LEARNERS`` learn side by side, and their mean counts.

Source: conditional logit, D. McFadden 1974, with a hidden layer.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import torch
from numpy.typing import NDArray
from torch import nn
from torch.nn import functional

Doubles = NDArray[np.float64]
Floats = NDArray[np.float32]

LEARNERS, HIDDEN = 3, 32
ROUNDS, BATCH, PACE = 40, 32, 3e-3
STIFFNESS, DROPPED, DROPPED_SEEN, BLUR = 0.3, 0.5, 0.1, 0.5
"""What keeps the weights general: decay, units left out, noise in standard deviations on what is seen."""
NONE = -1e9
"""The score of a candidate that is not there."""


@dataclass(frozen=True)
class Question:
    """The candidates of some songs, described, which of them are right, and how much each song counts."""

    described: list[Doubles]
    right: list[NDArray[np.bool_]]
    counts: list[float]


class Learner(nn.Module):  # type: ignore[misc]  # PyTorch is not installed where this is checked
    """Scores of candidates, shape (…), from their descriptions, shape (…, features)."""

    def __init__(self, features: int):
        super().__init__()
        self.straight = nn.Linear(features, 1, bias=False)
        self.seen, self.said = nn.Linear(features, HIDDEN), nn.Linear(HIDDEN, 1, bias=False)

    def forward(self, described: torch.Tensor) -> torch.Tensor:
        shown = described + BLUR * torch.randn_like(described)
        hidden = functional.relu(self.seen(functional.dropout(shown, DROPPED_SEEN)))
        return (self.straight(shown) + self.said(functional.dropout(hidden, DROPPED)))[..., 0]


def fit(name: str, question: Question) -> dict[str, Doubles]:
    """The weights ``<name>_*`` with which ``Weights.score`` prefers what is right."""
    every = np.concatenate(question.described)
    mean, scale = every.mean(axis=0), every.std(axis=0) + 1e-6
    learners = [_taught(question, mean, scale, seed) for seed in range(LEARNERS)]
    arrays = {
        "mean": mean,
        "scale": scale,
        "weights": np.mean([_array(one.straight.weight)[0] for one in learners], axis=0),
        "seen": np.concatenate([_array(one.seen.weight).T for one in learners], axis=1),
        "seen_bias": np.concatenate([_array(one.seen.bias) for one in learners]),
        "said": np.concatenate([_array(one.said.weight)[0] for one in learners]) / LEARNERS,
    }
    return {f"{name}_{part}": array for part, array in arrays.items()}


def sharpened(name: str, arrays: dict[str, Doubles], by: float) -> dict[str, Doubles]:
    """The same weights with scores so many times as large: likelihoods are surer, or less sure."""
    scores = (f"{name}_weights", f"{name}_said")
    return arrays | {each: by * arrays[each] for each in scores}


def _taught(question: Question, mean: Doubles, scale: Doubles, seed: int) -> Learner:
    torch.manual_seed(seed)
    described, absent, right = (torch.from_numpy(each) for each in _padded(question, mean, scale))
    counts = torch.tensor(question.counts, dtype=torch.float32)
    learner = Learner(len(mean))
    optimizer = torch.optim.AdamW(learner.parameters(), PACE, weight_decay=STIFFNESS)
    for _ in range(ROUNDS):
        for batch in torch.randperm(len(counts)).split(BATCH):
            chances = torch.log_softmax(learner(described[batch]) + absent[batch], dim=1)
            found = torch.logsumexp(chances.masked_fill(~right[batch], NONE), dim=1)
            optimizer.zero_grad()
            (-counts[batch] * found).mean().backward()
            optimizer.step()
    return learner


def _padded(question: Question, mean: Doubles, scale: Doubles) -> tuple[Floats, Floats, NDArray[np.bool_]]:
    """Songs by most candidates: descriptions scaled, ``NONE`` where no candidate is, and which are right."""
    shape = (len(question.described), max(len(each) for each in question.described))
    described = np.zeros((*shape, len(mean)), np.float32)
    absent, right = np.full(shape, NONE, np.float32), np.zeros(shape, bool)
    for row, (each, good) in enumerate(zip(question.described, question.right, strict=True)):
        described[row, : len(each)] = (each - mean) / scale
        absent[row, : len(each)] = 0
        right[row, : len(each)] = good
    return described, absent, right


def _array(parameter: torch.Tensor) -> Doubles:
    array: Doubles = parameter.detach().numpy().astype(np.float64)
    return array
