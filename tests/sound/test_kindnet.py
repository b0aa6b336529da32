"""The net computes what its layers say. Reference: scipy.signal and scipy.ndimage."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import maximum_filter
from scipy.signal import correlate

from izmet.sound.hits import BANDS, KINDS, MOMENTS
from izmet.sound.kindnet import POOLS, chances
from izmet.sound.learned import learned


def by_reference(picture: np.ndarray, arrays: dict[str, np.ndarray]) -> np.ndarray:
    """One picture of shape (moments, bands) through the net, channel by channel."""
    channels = [(picture - arrays["kind_mean"]) / arrays["kind_scale"]]
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
    hidden = np.maximum(flat @ arrays["kind_weights_1"] + arrays["kind_bias_1"], 0)
    return 1 / (1 + np.exp(-(hidden @ arrays["kind_weights_2"] + arrays["kind_bias_2"])))


@pytest.fixture(scope="module")
def pictures() -> np.ndarray:
    return np.random.default_rng(0).uniform(0, 6, (70, len(MOMENTS), BANDS)).astype(np.float32)


def test_the_net_agrees_with_a_reference(pictures):
    arrays = learned().arrays
    told = chances(pictures, arrays)
    assert told.shape == (len(pictures), len(KINDS) + 1)
    for index in (0, 31, 32, 69):
        assert told[index] == pytest.approx(by_reference(pictures[index], arrays), abs=1e-4)


def test_what_is_told_of_a_hit_does_not_depend_on_the_others(pictures):
    arrays = learned().arrays
    assert chances(pictures[40:], arrays) == pytest.approx(chances(pictures, arrays)[40:], abs=1e-5)
