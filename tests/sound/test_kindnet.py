"""The net computes what its layers say. References: scipy's signal, ndimage and distance."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import maximum_filter
from scipy.signal import correlate
from scipy.spatial.distance import pdist, squareform
from scipy.special import logit

from izmet.sound.hits import BANDS, KINDS, MOMENTS
from izmet.sound.kindnet import ALIKE, ALIKE_COUNTS, AROUND, POOLS, chances
from izmet.sound.learned import learned


def by_reference(picture: np.ndarray, strong: np.ndarray, arrays: dict[str, np.ndarray]) -> np.ndarray:
    """What the net sees in one picture of shape (moments, bands), channel by channel."""
    channels = [(picture - level) / arrays["kind_scale"] for level in (arrays["kind_mean"], strong)]
    for layer, (high, wide) in enumerate(POOLS, start=1):
        kernels, bias = arrays[f"kind_kernels_{layer}"], arrays[f"kind_kernel_bias_{layer}"]
        seen = [
            sum(
                correlate(channel, kernels[before, :, :, after], "valid")
                for before, channel in enumerate(channels)
            )
            + bias[after]
            for after in range(kernels.shape[3])
        ]
        # maximum_filter centres its window: step to the middle of each patch.
        pooled = [maximum_filter(np.maximum(one, 0), (high, wide))[high // 2 :: high] for one in seen]
        channels = [
            one[: seen[0].shape[0] // high, wide // 2 :: wide][:, : seen[0].shape[1] // wide]
            for one in pooled
        ]
    flat = np.stack(channels, axis=-1).ravel()
    return np.maximum(flat @ arrays["kind_weights_1"] + arrays["kind_bias_1"], 0)


@pytest.fixture(scope="module")
def pictures() -> np.ndarray:
    return np.random.default_rng(0).uniform(0, 6, (101, len(MOMENTS), BANDS)).astype(np.float32)


def test_the_net_agrees_with_a_reference(pictures):
    arrays = learned().arrays
    told = chances(pictures, arrays)
    assert told.shape == (len(pictures), len(KINDS) + 1)
    loudest = pictures[:, [8, 9, 10, 11, 12]].max(axis=1)
    strong = np.sort(loudest, axis=0)[90]  # nine in ten of 101 are softer
    seen = np.array([by_reference(picture, strong, arrays) for picture in pictures])
    logits = seen @ arrays["kind_weights_2"] + arrays["kind_bias_2"]
    likeness = 1 - squareform(pdist(seen, "cosine"))
    for index in (0, 31, 32, 100):
        alike = np.argsort(-likeness[index])[:ALIKE]
        assert index in alike
        expected = (1 - ALIKE_COUNTS) * logits[index] + ALIKE_COUNTS * logits[alike].mean(axis=0)
        assert told[index] == pytest.approx(1 / (1 + np.exp(-expected)), abs=1e-4)


@pytest.mark.parametrize("count", [1, 3, AROUND + 5, 2 * AROUND + 7])
def test_hits_that_look_the_same_are_told_the_same_however_many_there_are(pictures, count):
    arrays = learned().arrays
    told = chances(np.repeat(pictures[:1], count, axis=0), arrays)
    assert told == pytest.approx(np.repeat(chances(pictures[:1], arrays), count, axis=0), abs=1e-5)


def test_of_a_few_hits_each_is_told_by_itself(pictures):
    arrays = learned().arrays
    few = pictures[:5].copy()
    few[:, 8:13] = few[0, 8:13]  # as loud as each other
    alone = [chances(one[None], arrays)[0] for one in few]
    assert chances(few, arrays) == pytest.approx(np.array(alone), abs=1e-5)


def test_a_hit_in_doubt_is_told_like_those_that_look_like_it(pictures):
    """The same drum, each time in another mix: what is told strays less than of each by itself."""
    arrays = learned().arrays
    rng = np.random.default_rng(1)
    struck = pictures[0] + rng.normal(0, 0.8, (100, *pictures[0].shape)).astype(np.float32)
    struck[:, 8:13] = pictures[0, 8:13]  # as loud as each other
    alone = logit(np.array([chances(one[None], arrays)[0] for one in struck]))
    together = logit(chances(struck, arrays))
    assert (together.std(axis=0) < 0.9 * alone.std(axis=0)).all()
