"""Rates, rounding and timecode against SMPTE ST 12-1 and plain counting."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.core.document.rates import (
    STANDARD_RATES,
    frame_at,
    nearest_standard,
    parse_rate,
    residual_ms,
    seconds_at,
    timecode,
)

NTSC = Fraction(30000, 1001)

# SMPTE ST 12-1 drop-frame counting: 1,800 frames in minute 0, 1,798 in the others,
# 17,982 in ten minutes, 107,892 in an hour (twice that at 60000/1001). From memory.
DROP_FRAME = [
    (0, NTSC, "00:00:00;00"),
    (1799, NTSC, "00:00:59;29"),
    (1800, NTSC, "00:01:00;02"),
    (17981, NTSC, "00:09:59;29"),
    (17982, NTSC, "00:10:00;00"),
    (107892, NTSC, "01:00:00;00"),
    (3600, NTSC * 2, "00:01:00;04"),
    (215784, NTSC * 2, "01:00:00;00"),
]


@pytest.mark.parametrize(("frame", "rate", "written"), DROP_FRAME)
def test_drop_frame_timecode(frame, rate, written):
    assert timecode(frame, rate) == written


@pytest.mark.parametrize("rate", [NTSC, NTSC * 2])
def test_drop_frame_skips_just_the_numbers_the_standard_drops(rate):
    """Walk half an hour label by label, dropping by the standard's own words."""
    nominal, dropped = (30, 2) if rate == NTSC else (60, 4)
    labels = (
        f"00:{m:02}:{s:02};{f:02}"
        for m in range(30)
        for s in range(60)
        for f in range(nominal)
        if not (s == 0 and f < dropped and m % 10)
    )
    for frame, label in enumerate(labels):
        assert timecode(frame, rate) == label


@given(st.integers(0, 10**6), st.sampled_from([24, 25, 30, 50, 60]))
def test_plain_timecode_counts(frame, rate):
    hours, minutes, seconds, frames = (int(part) for part in timecode(frame, Fraction(rate)).split(":"))
    assert ((hours * 60 + minutes) * 60 + seconds) * rate + frames == frame


@given(st.floats(0, 10_000), st.sampled_from(STANDARD_RATES))
def test_nearest_frame_is_never_more_than_half_a_frame_off(seconds, rate):
    frame = frame_at(seconds, rate)
    assert abs(residual_ms(frame, seconds, rate)) <= 500 / rate + 1e-9
    assert frame_at(seconds, rate, "before") <= frame <= frame_at(seconds, rate, "after")


@given(
    st.integers(0, 10**6), st.sampled_from(STANDARD_RATES), st.sampled_from(["nearest", "before", "after"])
)
def test_an_instant_on_a_frame_lands_on_it_by_every_rule(frame, rate, rule):
    assert frame_at(seconds_at(frame, rate), rate, rule) == frame


@pytest.mark.parametrize("wrong", [29.97, "fast", "0", "1/0", None, "-24"])
def test_what_is_no_rate_is_refused(wrong):
    with pytest.raises(ValueError, match="rate"):
        parse_rate(wrong)


def test_measured_rates_snap_to_the_standard_beside_them_only():
    assert nearest_standard(Fraction("29.97003")) == NTSC
    assert nearest_standard(Fraction("23.976")) == Fraction(24000, 1001)
    assert nearest_standard(Fraction("24.0001")) == 24
    assert nearest_standard(Fraction("17.5")) == Fraction("17.5")
