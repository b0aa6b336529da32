"""Between which pictures flow is looked for: a camera that stands, one that pans, one that whips round."""

import cv2
import numpy as np

from izmet.picture.flowing import far, still
from izmet.picture.watching import SIZE, Watcher


def test_pictures_that_hardly_differ_and_those_that_move_too_far_are_told():
    rng = np.random.default_rng(2)
    wide, high = SIZE
    world = cv2.GaussianBlur(rng.normal(0, 1, (high, 8 * wide)).astype(np.float32), (0, 0), 3)
    world = 128 + 40 * world / world.std()
    steps = np.repeat([0.0, 0.05, 0.25], 12)
    watcher = Watcher()
    for left in np.cumsum(steps * wide):
        seen = world[:, round(left) : round(left) + wide] + rng.normal(0, 1, (high, wide))
        watcher.look(np.clip(seen, 0, 255).astype(np.uint8))
    told, new = watcher.seen(), np.ones(36, bool)
    assert still(told, new).tolist() == [True] * 12 + [False] * 24
    whipped = far(told, new)
    assert not whipped[:24].any()
    assert whipped[25:].mean() > 0.8
