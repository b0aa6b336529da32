"""The net computes what its layers say. References: scipy's signal, ndimage and distance."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import maximum_filter
from scipy.signal import correlate
from scipy.spatial.distance import pdist, squareform
from scipy.special import logit

from izmet.sound.bands import BANDS, FRAME_RATE, MOMENTS, Pictures
from izmet.sound.hits import KINDS, candidates
from izmet.sound.kindnet import ALIKE, ALIKE_COUNTS, AROUND, POOLS, REACH, chances
from izmet.sound.learned import learned
from tests.sound.machine import levels, play


def by_reference(picture: np.ndarray, strong: np.ndarray, arrays: dict[str, np.ndarray]) -> np.ndarray:
    """What the net sees in one picture of shape (moments, bands, 2), channel by channel."""
    both = [(picture - level) / arrays["kind_scale"] for level in (arrays["kind_mean"], strong)]
    channels = [each[:, :, place] for each in both for place in (0, 1)]
    for layer, (high, wide) in enumerate(POOLS, start=1):
        kernels, gain, bias = (arrays[f"kind_{name}_{layer}"] for name in ("kernels", "gain", "kernel_bias"))
        seen = [
            sum(
                correlate(channel, kernels[before, :, :, after], "valid")
                for before, channel in enumerate(channels)
            )
            for after in range(kernels.shape[3])
        ]
        # maximum_filter centres its window: step to the middle of each patch.
        pooled = [maximum_filter(one, (high, wide))[high // 2 :: high, wide // 2 :: wide] for one in seen]
        whole = seen[0].shape[0] // high, seen[0].shape[1] // wide
        channels = [
            np.maximum(one[: whole[0], : whole[1]] * gain[after] + bias[after], 0)
            for after, one in enumerate(pooled)
        ]
    flat = np.stack(channels, axis=-1).ravel()
    return np.maximum(flat @ arrays["kind_hidden"] + arrays["kind_hidden_bias"], 0)


def around_by_reference(seen: np.ndarray, times: np.ndarray, index: int, arrays: dict[str, np.ndarray]):
    """What the hits around one add, each looked at in turn."""
    said, apart = [], []
    for other in range(index - REACH, index + REACH + 1):
        there = 0 <= other < len(seen)
        heard = seen[other] @ arrays["kind_said"] + arrays["kind_said_bias"] if there else None
        said.append(np.maximum(heard, 0) if there else np.zeros(len(arrays["kind_said_bias"])))
        apart.append(np.log10((min(abs(times[other] - times[index]), 10) if there else 10) + 0.01))
    window = np.concatenate([*said, apart])
    return np.maximum(window @ arrays["kind_around"] + arrays["kind_around_bias"], 0) @ arrays["kind_tells"]


@pytest.fixture(scope="module")
def pictures() -> np.ndarray:
    return np.random.default_rng(0).uniform(0, 6, (101, len(MOMENTS), BANDS, 2)).astype(np.float32)


@pytest.fixture(scope="module")
def times(pictures) -> np.ndarray:
    return np.cumsum(10 ** np.random.default_rng(1).uniform(-1.5, 1.2, len(pictures)))


def test_the_net_agrees_with_a_reference(pictures, times):
    arrays = learned().arrays
    told = chances(pictures, times, arrays)
    assert told.shape == (len(pictures), len(KINDS) + 1)
    loudest = pictures[:, [8, 9, 10, 11, 12]].max(axis=1)
    strong = np.sort(loudest, axis=0)[90]  # nine in ten of 101 are softer
    seen = np.array([by_reference(picture, strong, arrays) for picture in pictures])
    logits = seen @ arrays["kind_told"] + arrays["kind_told_bias"]
    logits += [around_by_reference(seen, times, index, arrays) for index in range(len(seen))]
    likeness = 1 - squareform(pdist(seen, "cosine"))
    for index in (0, 31, 32, 100):
        alike = np.argsort(-likeness[index])[:ALIKE]
        assert index in alike
        expected = (1 - ALIKE_COUNTS) * logits[index] + ALIKE_COUNTS * logits[alike].mean(axis=0)
        assert told[index] == pytest.approx(1 / (1 + np.exp(-expected)), abs=1e-4)


@pytest.fixture(scope="module")
def deaf() -> dict[str, np.ndarray]:
    """The weights of a net that does not hear what is around a hit."""
    arrays = learned().arrays
    return arrays | {"kind_tells": np.zeros_like(arrays["kind_tells"])}


@pytest.mark.parametrize("count", [1, 3, AROUND + 5, 2 * AROUND + 7])
def test_hits_that_look_the_same_are_told_the_same_however_many_there_are(pictures, deaf, count):
    times = np.arange(count) * 0.25
    told = chances(np.repeat(pictures[:1], count, axis=0), times, deaf)
    assert told == pytest.approx(np.repeat(chances(pictures[:1], times[:1], deaf), count, axis=0), abs=1e-5)


def test_of_a_few_hits_each_is_told_by_those_within_reach():
    arrays = learned().arrays
    logs = levels(play(120, bars=4).samples[:, 0])
    frames = candidates(logs)[0][: 2 * REACH + 3]
    few, times = Pictures(logs, frames)[:], frames / FRAME_RATE
    before = chances(few, times, arrays)
    few[-1, :8] = few[-1, 13:] = 0  # all but how loud it is when it is struck
    changed = np.abs(chances(few, times, arrays) - before).max(axis=1) > 1e-9
    assert not changed[: -REACH - 1].any()
    assert changed[-REACH - 1 :].sum() > REACH / 2
    assert changed[-1]


def test_a_hit_in_doubt_is_told_like_those_that_look_like_it(pictures, deaf):
    """The same drum, each time in another mix: what is told strays less than of each by itself."""
    rng = np.random.default_rng(1)
    struck = pictures[0] + rng.normal(0, 0.8, (100, *pictures[0].shape)).astype(np.float32)
    struck[:, 8:13] = pictures[0, 8:13]  # as loud as each other
    times = np.arange(100) * 0.2
    alone = logit(np.array([chances(one[None], times[:1], deaf)[0] for one in struck]))
    together = logit(chances(struck, times, deaf))
    assert (together.std(axis=0) < 0.9 * alone.std(axis=0)).all()
