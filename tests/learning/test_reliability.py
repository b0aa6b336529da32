"""The diagram of claims: Wilson's interval as statistics know it, and a point where it belongs."""

from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import binomtest

from scripts.learning.reliability import EDGE, SIDE, Claims, draw, interval


@given(count=st.integers(1, 300), right=st.floats(0, 1))
def test_the_interval_is_wilsons(count, right):
    held = round(right * count)
    low, high = interval(Claims(0.5, held / count, count))
    found = binomtest(held, count).proportion_ci(0.95, method="wilson")
    assert (low, high) == pytest.approx((found.low, found.high), abs=1e-4)


def test_what_holds_as_said_lies_on_the_diagonal(tmp_path):
    draw([Claims(0.75, 0.75, 40), Claims(0.9, 0.5, 10)], tmp_path / "out.svg")
    dots = ElementTree.parse(tmp_path / "out.svg").findall("{http://www.w3.org/2000/svg}circle")
    across = [(float(dot.get("cx")) - EDGE) / SIDE for dot in dots]
    up = [1 - (float(dot.get("cy")) - EDGE) / SIDE for dot in dots]
    assert across == pytest.approx([0.75, 0.9])
    assert up == pytest.approx([0.75, 0.5])
