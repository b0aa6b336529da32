"""In a frame of another shape what a tie is about is seen within its inner 80 % at the hit."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.arrange.inview import kept_in_view
from izmet.core.document.edit import Edit
from izmet.core.document.framing import Track, TrackPoint
from izmet.core.following.workings import derive
from izmet.core.retime.solve import curves_of
from izmet.core.shown.framing import lies, point_seen
from izmet.core.shown.stack import frames_shown
from tests.core.test_stack import two_clips

SIDE = st.integers(16, 400).map(lambda half: 2 * half)


def about(edit: Edit, *points: tuple[int, float, float]) -> Edit:
    """The edit with a track through points of its first take: source frame, across, down."""
    track = Track(id="track-1", name="bow", points=tuple(TrackPoint(frame=n, x=x, y=y) for n, x, y in points))
    takes = [
        take.model_copy(update={"tracks": (track,)}) if take.id == "gannet" else take for take in edit.takes
    ]
    return edit.model_copy(update={"takes": tuple(takes)})


def seen_at_hits(edit: Edit) -> list[np.ndarray]:
    """Where the track of the first take is seen on the frames of its ties."""
    (track,), shown = edit.take("gannet").tracks, frames_shown(edit)
    hits = [each.wanted_frame for each in derive(edit).landings if each.clip == "going"]
    return list(point_seen(edit, curves_of(edit), shown, 0, track, np.array(hits)).T)


@given(SIDE, SIDE, st.floats(0.02, 0.98), st.floats(0.02, 0.98), st.floats(0, 1))
def test_the_point_of_a_tie_is_seen_far_enough_in(width, height, x, y, across):
    edit = do.apply(two_clips(), do.FrameClip(clip="going", across=across))
    edit = about(edit, (190, 0.5, 0.5), (200, x, y), (201, x, y), (220, x, y))
    edit = kept_in_view(do.apply(edit, do.Configure(width=width, height=height)))
    clip, box = edit.clip("going"), lies(edit, edit.clip("going"))
    grown = clip.framing.keys[0].scale if clip.framing else 1.0
    for place in seen_at_hits(edit):
        near = np.array([min(x, 1 - x) * box.wide, min(y, 1 - y) * box.high]) * grown
        # Beyond the most that a picture grows the point is as far in as that brings it.
        most = min(4, 5 / max(box.wide, box.high)) - 1e-9
        least = np.minimum(0.1, near) if grown >= most else np.array([0.1, 0.1])
        assert (place >= least - 1e-6).all()
        assert (place <= 1 - least + 1e-6).all()
    assert all(landing.exact for landing in derive(edit).landings)


def test_it_moves_no_further_than_it_must_and_leaves_what_is_framed_by_hand():
    edit = about(two_clips(), (199, 0.5, 0.5), (210, 0.5, 0.5))
    tall = do.apply(edit, do.Configure(width=360, height=640))
    assert kept_in_view(tall).clip("going").across == 0.5, "it is in view already"
    right = kept_in_view(
        do.apply(about(two_clips(), (199, 0.8, 0.5), (210, 0.8, 0.5)), do.Configure(width=360, height=640))
    )
    (place, *_) = seen_at_hits(right)
    assert place[0] == pytest.approx(0.9)
    framed = do.apply(tall, do.AddFramingKey(clip="going", n=0, scale=1.5))
    assert kept_in_view(framed) == framed
    fitted = do.apply(tall, do.FrameClip(clip="going", fit="fit"))
    assert kept_in_view(fitted) == fitted
    assert kept_in_view(two_clips()) == two_clips(), "nothing is known of what its ties are about"
