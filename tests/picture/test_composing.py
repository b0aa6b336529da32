"""Placed pictures: grown, turned and masked as their formulas say; what covers the frame leaves no edge."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.ndimage import affine_transform, gaussian_filter

from izmet.core import commands as do
from izmet.core.shown.framemap import Place, Placing
from izmet.core.shown.stack import frames_shown
from izmet.picture import composing
from izmet.picture.composing import Planes, plain
from tests.core.test_stack import two_clips

HIGH, WIDE = 120, 200


def laid(under: Planes, over: Planes, place: Place, **how) -> Planes:
    """One picture over another, at one place."""
    return composing.laid(under, over, 1, Placing(0, np.array([place]), **how), 0)


def smooth(seed: int) -> Planes:
    """A picture without hard edges."""
    rng = np.random.default_rng(seed)
    sides = ((HIGH, WIDE), (HIGH // 2, WIDE // 2), (HIGH // 2, WIDE // 2))
    noise = [gaussian_filter(rng.normal(0, 1, side), 6) for side in sides]
    return Planes(*((128 + 90 * each / abs(each).max()).astype(np.uint8) for each in noise))


@given(st.floats(-90, 90), st.floats(1, 3), st.sampled_from([-0.2, 0, 0.1]), st.integers(0, 99))
def test_a_picture_is_grown_and_turned_about_its_middle(turn, scale, x, seed):
    """Reference: scipy.ndimage.affine_transform, linear."""
    picture = smooth(seed)
    seen = laid(picture, picture, Place(x=x, scale=scale, turn=turn)).y
    angle = np.deg2rad(turn)
    # From a sample of the frame (down, across) to one of the picture: the way back.
    back = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]]) / scale
    middle = np.array([(HIGH - 1) / 2, (WIDE - 1) / 2])
    offset = middle - back @ (middle + np.array([0, x * WIDE]))
    expected = affine_transform(picture.y.astype(float), back, offset, order=1, mode="nearest")
    inside = affine_transform(np.pad(np.ones((HIGH - 4, WIDE - 4)), 2), back, offset, order=1) > 0.999
    assert abs(seen[inside] - expected[inside]).max(initial=0) <= 2


@given(st.sampled_from(["zoom", "spin"]), st.sampled_from(["left", "right"]), st.integers(1, 30))
def test_what_grows_and_turns_always_covers_the_frame(kind, way, frames):
    edit = do.apply(two_clips(), do.OverlapClips(clip="coming", frames=frames, kind=kind, way=way))
    edit = do.apply(edit, do.Configure(width=640, height=270))
    shown = frames_shown(edit)
    black, white = plain((640, 270)), plain((640, 270), "#ffffff")
    for placing in (*shown.placings, *(layer.placing for layer in shown.layers)):
        for n in placing.frames:
            for plane, full in zip(composing.laid(black, white, 1, placing, n), white, strict=True):
                np.testing.assert_array_equal(plane, full)


@pytest.mark.parametrize("reach", [0.1, 0.35, 0.6])
def test_an_ellipse_has_its_area_and_the_rest_of_it_is_outside(reach):
    place = Place(left=0.5 - reach, top=0.5 - reach, right=0.5 + reach, bottom=0.5 + reach)
    black, white = plain((WIDE, HIGH)), plain((WIDE, HIGH), "#ffffff")
    within, without = (
        (laid(black, white, place, mask=mask).y - 16.0) / 219 for mask in ("ellipse", "outside")
    )
    np.testing.assert_allclose(within + without, 1, atol=0.01)
    if reach < 0.5:
        assert within.sum() == pytest.approx(np.pi * reach**2 * WIDE * HIGH, rel=0.005)
    y, x = np.mgrid[:HIGH, :WIDE] + 0.5
    far = np.hypot((x / WIDE - 0.5) / reach, (y / HIGH - 0.5) / reach)
    assert within[far < 0.93].min(initial=1) == 1
    assert within[far > 1.1].max(initial=0) == 0


@given(st.integers(1, 30))
def test_an_iris_has_opened_when_the_overlap_ends(frames):
    """One frame on, it would go through the corners and have the whole frame within it."""
    edit = do.apply(two_clips(), do.OverlapClips(clip="coming", frames=frames, kind="iris"))
    reaches = [
        each.placing.at(n).right - 0.5 for each in frames_shown(edit).layers for n in each.placing.frames
    ]
    assert reaches == pytest.approx([k / (frames + 1) / np.sqrt(2) for k in range(1, frames + 1)])
