"""How pictures lie in the frame: keys follow what they stand on, no edge is seen, kept points stay."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.arrange.songs import carry
from izmet.core.document.edit import Brake, Build, Dip, Edit, Swell, parse_edit
from izmet.core.document.framing import Track, TrackPoint
from izmet.core.document.overlaps import Corner, Reveal
from izmet.core.document.refusal import Refusal
from izmet.core.following.derived import changes
from izmet.core.following.workings import derive, workings_of
from izmet.core.retime.shapes import profile_of
from izmet.core.shown.framing import MOST_GROWN, lies
from izmet.core.shown.plan import render_plan
from izmet.core.shown.reveals import covering
from izmet.core.shown.stack import frames_shown
from tests.core.test_stack import CUT, two_clips

EASINGS = st.sampled_from(["straight", "soft", "sharp", "ease-in-out"])


def applied(edit: Edit, *commands) -> Edit:
    for command in commands:
        edit = do.apply(edit, command)
    return edit


def through(*points: tuple[int, float, float]) -> tuple[TrackPoint, ...]:
    """The points of a track: source frames and places."""
    return tuple(TrackPoint(frame=frame, x=x, y=y) for frame, x, y in points)


def framed_on(edit: Edit, clip: str, n: int) -> tuple[float, ...]:
    """Across, down, scale and turn of a clip's picture on an output frame."""
    shown = frames_shown(edit)
    framed = shown.framings[shown.index_of[clip]]
    return tuple(framed.values[n - framed.first].tolist())


def sized(edit: Edit, width: int, height: int) -> Edit:
    """The edit with takes of another size."""
    takes = tuple(take.model_copy(update={"width": width, "height": height}) for take in edit.takes)
    return edit.model_copy(update={"takes": takes})


def corners_read(edit: Edit, clip: str, n: int) -> np.ndarray:
    """Which parts of a clip's picture the corners of the frame show, by the plain way back; shape (4, 2)."""
    x, y, scale, turn = framed_on(edit, clip, n)
    sides, at = np.array([edit.width, edit.height]), lies(edit, edit.clip(clip))
    angle = np.deg2rad(turn)
    back = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]]) / scale
    corners = np.array([[0, 0], [1, 0], [0, 1], [1, 1]])
    frame = ((corners - 0.5 - [x, y]) * sides) @ back.T / sides + 0.5
    return (frame - [at.left, at.top]) / [at.wide, at.high]


def test_keys_stand_on_cues_and_moments_and_follow_them():
    edit = applied(
        two_clips(),
        do.AddFramingKey(clip="going", n=0),
        do.AddFramingKey(clip="going", moment="hit", scale=2, ease="straight"),
    )
    assert framed_on(edit, "going", 30)[2] == 2
    # The logarithm of the scale goes evenly.
    assert framed_on(edit, "going", 15)[2] == pytest.approx(np.sqrt(2))
    moved = applied(edit, do.ChangeCue(cue="cue-30", time=24 / 60))
    assert framed_on(moved, "going", 24)[2] == 2
    assert framed_on(moved, "going", 12)[2] == pytest.approx(np.sqrt(2))
    on_cue = applied(edit, do.ChangeFramingKey(clip="going", key="key-2", cue="cue-30"))
    assert any("framing" in row.holds for row in carry(on_cue, on_cue.song)), "another song asks for it"
    gone = applied(on_cue, do.RemoveCues(cues=("cue-30",)))
    assert framed_on(gone, "going", 30)[2] == 2, "it stays on its frame"
    assert gone.clip("going").framing.keys[1].at.n == 30
    lost = applied(edit, do.RemoveMoment(take="gannet", moment="hit"))
    assert framed_on(lost, "going", 30)[2] == 2, "it stays with the picture"
    slower = applied(edit, do.Configure(rate="30"))
    assert framed_on(slower, "going", 15)[2] == 2
    with pytest.raises(Refusal, match="not seen there"):
        applied(edit, do.AddFramingKey(clip="going", n=500))
    plain = applied(edit, do.RemoveFramingKey(clip="going"))
    assert plain.clip("going").framing is None
    copied = applied(edit, do.CopyFraming(clip="going", to=("coming",)))
    assert framed_on(copied, "coming", CUT + 30)[2] == 2
    assert parse_edit(edit.model_dump(mode="json")) == edit


@given(st.sampled_from(["dip", "swell", "build", "brake"]), st.floats(0, 1), st.booleans())
def test_a_key_is_come_to_as_a_span_of_the_same_shape_runs(shape, strength, turned):
    """How far a span of frames 0 to 30 has come on each of them, of its way through the take."""
    slow = 1 - strength
    span = {
        "dip": Dip(strength=strength),
        "swell": Swell(strength=strength),
        "build": Build(start=slow, change=0.5),
        "brake": Brake(end=slow, change=0.5),
    }[shape]
    field, most = ("turn", 40.0) if turned else ("x", 0.5)
    edit = applied(
        two_clips(),
        do.FrameClip(clip="going", fit="fit"),
        do.AddFramingKey(clip="going", n=0),
        do.AddFramingKey(clip="going", n=30, ease={"shape": shape, "strength": strength}, **{field: most}),
    )
    at = [framed_on(edit, "going", n)[3 if turned else 0] / most for n in range(31)]
    profile = profile_of(span, 1.0)
    steps = np.linspace(0, 1, 3001)
    run = np.concatenate([[0], np.cumsum((profile.speed(steps)[1:] + profile.speed(steps)[:-1]) / 6000)])
    np.testing.assert_allclose(at, run[::100], atol=1e-6)
    assert parse_edit(edit.model_dump(mode="json")) == edit


@given(
    st.integers(60, 400),
    st.integers(60, 400),
    st.lists(
        st.tuples(
            st.integers(0, 59),
            st.floats(-2, 2),
            st.floats(-2, 2),
            st.floats(0.05, 4),
            st.floats(-400, 400),
            EASINGS,
        ),
        min_size=1,
        max_size=4,
    ),
    st.floats(0, 1),
    st.floats(0, 1),
)
def test_no_edge_is_seen_whatever_the_keys_say(width, height, keys, across, down):
    edit = applied(
        sized(two_clips(), 2 * width, 2 * height), do.FrameClip(clip="going", across=across, down=down)
    )
    for n, x, y, scale, turn, ease in keys:
        edit = do.attempt(
            edit, do.AddFramingKey(clip="going", n=n, x=x, y=y, scale=scale, turn=turn, ease=ease)
        )
    for n in range(0, CUT, 7):
        read = corners_read(edit, "going", n)
        assert read.min() >= -1e-6
        assert read.max() <= 1 + 1e-6


@given(
    st.lists(st.tuples(st.floats(0.2, 0.8), st.floats(0.2, 0.8)), min_size=2, max_size=6),
    st.tuples(st.floats(0.3, 0.7), st.floats(0.3, 0.7)),
    st.floats(1, 2),
    st.floats(-20, 20),
)
def test_a_kept_point_stays_where_it_is_and_no_edge_is_seen(way, to, scale, turn):
    edit = two_clips()
    points = tuple((170 + 12 * index, *at) for index, at in enumerate(way))
    edit = applied(
        edit,
        do.SaveTrack(take="gannet", points=through(*points)),
        do.KeepPoint(clip="going", track="track-1", x=to[0], y=to[1]),
        do.AddFramingKey(clip="going", n=0, scale=scale, turn=turn),
    )
    shown = frames_shown(edit)
    framed = shown.framings[shown.index_of["going"]]
    n = np.arange(CUT)
    picture = shown.picture[n - shown.first]
    frame, x, y = np.array(points).T
    point = np.stack([np.interp(picture, frame, x), np.interp(picture, frame, y)])
    seen = framed.seen_at(n, point, edit.width / edit.height)
    grown = framed.on(n)[:, 2]
    np.testing.assert_allclose(grown, grown[0], err_msg="it does not breathe")
    if grown[0] < MOST_GROWN * scale * 0.999:
        np.testing.assert_allclose(seen, np.tile(np.array(to)[:, None], CUT), atol=1e-9)
    for each in range(0, CUT, 7):
        read = corners_read(edit, "going", each)
        assert read.min() >= -1e-6
        assert read.max() <= 1 + 1e-6


def test_a_point_is_kept_across_a_cut():
    edit = applied(
        two_clips(),
        do.SaveTrack(take="gannet", points=through((170, 0.3, 0.4), (240, 0.6, 0.5))),
        do.SaveTrack(take="flyby", points=through((200, 0.5, 0.62), (300, 0.4, 0.5))),
        do.KeepPoint(clip="going", track="track-1", x=0.45, y=0.5),
        do.KeepPoint(clip="coming", track="track-2", from_before=True, through=False),
    )
    shown = frames_shown(edit)
    framed = shown.framings[shown.index_of["coming"]]
    seen = framed.seen_at(np.array([CUT, CUT + 30]), np.array([[0.5, 0.47], [0.62, 0.584]]), 16 / 9)
    np.testing.assert_allclose(seen[:, 0], [0.45, 0.5])
    assert abs(seen[:, 1] - [0.45, 0.5]).max() > 0.02, "from there on it moves as it does in its take"
    elsewhere = applied(edit, do.KeepPoint(clip="going", track="track-1", x=0.5, y=0.45))
    now = frames_shown(elsewhere)
    framed = now.framings[now.index_of["coming"]]
    seen = framed.seen_at(np.array([CUT]), np.array([[0.5], [0.62]]), 16 / 9)
    np.testing.assert_allclose(seen[:, 0], [0.5, 0.45])
    near = workings_of(edit, {})
    stepped = workings_of(elsewhere, {}, near)
    assert changes(near.derived, stepped.derived).map.framings is not None
    with pytest.raises(Refusal, match="no track"):
        applied(edit, do.KeepPoint(clip="coming", track="track-1"))
    lost = applied(edit, do.RemoveTrack(take="flyby", track="track-2"))
    assert lost.clip("coming").framing is None


def test_a_track_is_kept_corrected_and_looked_for_again():
    edit = applied(
        two_clips(), do.SaveTrack(take="gannet", points=through((10, 0.1, 0.1), (30, 0.3, 0.3)), name="Nose")
    )
    edit = applied(edit, do.SetTrackPoint(take="gannet", track="track-1", frame=20, x=0.25, y=0.2))
    assert edit.track("gannet", "track-1").points == through((10, 0.1, 0.1), (20, 0.25, 0.2), (30, 0.3, 0.3))
    edit = applied(
        edit, do.SaveTrack(take="gannet", track="track-1", points=through((22, 0.5, 0.5)), over=(15, 40))
    )
    assert edit.track("gannet", "track-1") == Track(
        id="track-1", name="Nose", points=through((10, 0.1, 0.1), (22, 0.5, 0.5))
    )
    take = edit.take("gannet")
    longer = take.model_copy(update={"frames": 2 * take.frames, "rate": 2 * take.rate, "tracks": ()})
    again = applied(edit, do.RelinkTake(take=longer, keep="instant"))
    assert [point.frame for point in again.track("gannet", "track-1").points] == [20, 44]
    with pytest.raises(Refusal, match="outside the take"):
        applied(edit, do.SaveTrack(take="gannet", points=through((5000, 0.5, 0.5))))
    assert parse_edit(edit.model_dump(mode="json")) == edit


def test_an_inset_lies_over_the_clips_and_lands_its_own_ties():
    edit = applied(
        two_clips(),
        do.Anyway(
            command=do.InsetClip(clip="coming", x=0.8, y=0.2, width=0.3, height=0.25, border=0.01, fade=4)
        ),
    )
    shown = frames_shown(edit)
    border, picture = shown.layers
    assert border.colour == "#ffffff"
    assert picture.frames == range(CUT, 121)
    assert picture.opacity[0] == 1, "its hit is on its first frame"
    assert picture.opacity[-6:].tolist() == pytest.approx([1, 1, 0.8, 0.6, 0.4, 0.2])
    place = picture.placing.at(70)
    assert (place.left, place.right) == pytest.approx((0.65, 0.95))
    assert (place.top, place.bottom) == pytest.approx((0.075, 0.325))
    assert place.scale == pytest.approx(0.3), "it covers its sides, and is cut above and below"
    derived = derive(edit)
    assert all(landing.exact and landing.hidden_by is None for landing in derived.landings)
    (inset,) = (clip for clip in derived.clips if clip.id == "coming")
    assert (inset.steps == 1).all()
    full = applied(edit, do.Anyway(command=do.FillFrame(clip="coming")))
    assert not frames_shown(full).layers


def test_a_background_is_keyed_out_only_by_a_colour():
    edit = applied(two_clips(), do.Anyway(command=do.InsetClip(clip="coming", border=0.02)))
    keyed = applied(edit, do.KeyOut(clip="coming", colour="#20c040", soft=0.2))
    (layer,) = frames_shown(keyed).layers
    assert layer.keying.soft == 0.2, "and a border would show through"
    with pytest.raises(Refusal, match="too grey"):
        applied(edit, do.KeyOut(clip="coming", colour="#808680"))
    with pytest.raises(Refusal, match="Only an inset"):
        applied(edit, do.KeyOut(clip="going", colour="#20c040"))
    assert applied(keyed, do.KeyOut(clip="coming")).clip("coming").inset.keying is None
    one, other = (
        {part.key for part in render_plan(each, frames_shown(each), "as ever")}
        for each in (keyed, applied(keyed, do.KeyOut(clip="coming", near=0.4)))
    )
    assert one != other


SHAPES = st.one_of(
    st.builds(
        Reveal,
        shape=st.sampled_from(["ellipse", "box"]),
        width=st.floats(0.05, 0.8),
        height=st.floats(0.05, 0.8),
    ),
    # A star about its point: at each of some angles, so far out.
    st.lists(st.floats(0.05, 0.9), min_size=3, max_size=9).map(
        lambda far: Reveal(
            shape="polygon",
            corners=tuple(
                Corner(x=float(by * np.cos(at)), y=float(by * np.sin(at)))
                for by, at in zip(far, np.arange(len(far)) * 2 * np.pi / len(far) + 0.1, strict=True)
            ),
        )
    ),
)


def drawn(reveal: Reveal, times: float) -> np.ndarray:
    """The outline of the shape about (0, 0), so many times as large as it is."""
    if reveal.shape == "polygon":
        return times * np.array([(corner.x, corner.y) for corner in reveal.corners])
    half = times * np.array([reveal.width, reveal.height]) / 2
    if reveal.shape == "box":
        return half * [[-1, -1], [1, -1], [1, 1], [-1, 1]]
    turns = np.linspace(0, 2 * np.pi, 1441)
    return half * np.stack([np.cos(turns), np.sin(turns)], axis=1)


@given(SHAPES, st.floats(0.05, 0.95), st.floats(0.05, 0.95))
def test_a_reveal_fills_the_frame_and_no_sooner(reveal, x, y):
    """Reference: OpenCV's pointPolygonTest, on the rim of the frame."""
    (times,) = covering(reveal, np.array([[x], [y]]))
    steps = np.linspace(0, 1, 401)
    rim = [(a, side) for side in (0, 1) for a in steps] + [(side, a) for side in (0, 1) for a in steps]

    def held(by: float) -> bool:
        outline = drawn(reveal, by).astype(np.float32)
        return all(cv2.pointPolygonTest(outline, (a - x, b - y), False) >= 0 for a, b in rim)

    assert held(times * 1.001)
    assert not held(times * 0.98)


def test_a_reveal_is_full_on_its_cue_and_moves_no_hit():
    edit = applied(two_clips(), do.SaveTrack(take="gannet", points=through((170, 0.3, 0.4), (240, 0.6, 0.5))))
    shape = Reveal(shape="box", width=0.2, height=0.2, track="track-1", grow="straight")
    edit = applied(edit, do.OverlapClips(clip="coming", frames=20, kind="reveal", reveal=shape))
    (layer,) = frames_shown(edit).layers
    assert layer.frames == range(CUT - 20, CUT), "all of it lies before the cut"
    middles = [(layer.placing.at(n).left + layer.placing.at(n).right) / 2 for n in (CUT - 20, CUT - 1)]
    assert middles == pytest.approx(np.interp([200 + 10, 200 + 29], [170, 240], [0.3, 0.6]), abs=1e-6)
    sizes = [layer.placing.at(n).right - layer.placing.at(n).left for n in layer.frames]
    assert np.all(np.diff(sizes) > 0)
    assert all(landing.exact for landing in derive(edit).landings)
    lost = applied(edit, do.RemoveTrack(take="gannet", track="track-1"))
    assert lost.clip("coming").overlap.reveal.track is None
    beside = {
        "shape": "polygon",
        "corners": [{"x": x, "y": y} for x, y in ((0.1, 0.1), (0.2, 0.1), (0.1, 0.2))],
    }
    with pytest.raises(ValueError, match="inside the polygon"):
        Reveal.model_validate(beside)
    touching = {"shape": "polygon", "corners": [{"x": x, "y": y} for x, y in ((0, -0.2), (0.2, 0), (0, 0.2))]}
    with pytest.raises(ValueError, match="clear of its sides"):
        Reveal.model_validate(touching)
