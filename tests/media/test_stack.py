"""The stack of layers in a file: overlaps and flashes come out as their formulas say, and hits still land."""

from fractions import Fraction

import av
import numpy as np
import pytest
from av.video.reformatter import ColorRange, Colorspace
from hypothesis import given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.document.edit import Clip, Cue, Edit, Moment, Motion, Song, Steady, Take
from izmet.core.document.places import Pin
from izmet.core.document.values import Media
from izmet.core.following.workings import derive
from izmet.core.shown.framemap import HOWS
from izmet.core.shown.light import part_for
from izmet.core.shown.stack import frames_shown
from izmet.media.pictures import decode_all
from izmet.media.readback import measure
from izmet.media.render import render
from izmet.media.sampling import counted_in
from izmet.picture import flow
from izmet.picture.composing import LOOKS, Planes, flash, mixed, plain, weighted
from tests.core.felt import accent
from tests.media.files import write_colours, write_numbered
from tests.media.test_render import looked_at

CUT, FRAMES = 40, 80
AT_ONCE = {side: {"frames": 0, "fade": False} for side in ("comes", "goes")}
SIZE = (192, 108)


def two_takes(files) -> Edit:
    """An edit that shows one take up to frame CUT, and another one from there on, its hit on the cut."""
    cues = tuple(Cue(id=f"cue-{n}", time=n / 60) for n in (20, CUT, FRAMES))
    takes = tuple(
        Take(
            id=id, media=Media(name=id, path=id), rate="60", frames=120, distinct="60",
            width=SIZE[0], height=SIZE[1], moments=(Moment(id="hit", frame=30),),
        )
        for id in files
    )  # fmt: skip
    going = Clip(
        id="going", take=takes[0].id, spans=(Steady(speed=1), Steady(speed=1)),
        until=Pin(id="until", cue=f"cue-{CUT}"),
        pins=(Pin(id="a", n=0), Pin(id="b", cue="cue-20", moment="hit"), Pin(id="c", n=FRAMES)),
    )  # fmt: skip
    coming = Clip(
        id="coming", take=takes[1].id, spans=(Steady(speed=1),),
        pins=(Pin(id="a", cue=f"cue-{CUT}", moment="hit"), Pin(id="b", cue=f"cue-{FRAMES}")),
    )  # fmt: skip
    song = Song(media=Media(name="none", path="none"), duration=9, sample_rate=48000, cues=cues)
    return Edit(rate="60", width=SIZE[0], height=SIZE[1], song=song, takes=takes, clips=(going, coming))


def luma(path) -> np.ndarray:
    """The middle luma of every picture of a file, as it was coded."""
    return np.array([frame.to_ndarray(format="yuv420p")[50, 100] for frame in decode_all(path, path.name)])


@pytest.fixture
def grey(tmp_path):
    """Two takes of one grey each, which no codec changes, and the luma they come out with."""
    files, levels = {}, []
    for id, level in (("dark", 60), ("light", 200)):
        path = write_colours(tmp_path / f"{id}.mkv", [(level,) * 3] * 120, SIZE, matrix=1)
        files[id] = looked_at(path, SIZE)
        levels.append(int(luma(path)[60]))
    return files, levels


def test_an_overlap_and_a_flash_come_out_as_their_formulas_say(tmp_path, grey):
    files, (dark, light) = grey
    edit = do.apply(two_takes(files), do.OverlapClips(clip="coming", frames=9))
    edit = do.apply(edit, accent("flash", cue="cue-20", light=75, lead=2, tail=3))
    render(edit, files, None, tmp_path / "out.mkv", "mkv")
    seen = luma(tmp_path / "out.mkv")
    expected = np.where(np.arange(FRAMES + 1) < CUT, dark, light).astype(float)
    for k in range(9):
        expected[CUT - 4 + k] = dark + (light - dark) * (k + 1) / 10
    for n, part in zip(range(18, 24), (1 / 3, 2 / 3, 1, 3 / 4, 2 / 4, 1 / 4), strict=True):
        expected[n] = dark + (235 - dark) * part_for("#ffffff", 75) * part
    np.testing.assert_allclose(seen, expected, atol=0.51)


@pytest.mark.parametrize("way", ["left", "right", "up", "down"])
@pytest.mark.parametrize("kind", ["wipe", "push"])
def test_a_wipe_uncovers_and_a_push_moves_as_far_as_it_is(tmp_path, kind, way):
    """Two still pictures; what is expected is put together from them with plain slices."""
    files, stills = {}, []
    for id, number in (("dark", 0b101100111000), ("light", 0b010011000110)):
        path = write_numbered(tmp_path / f"{id}.mkv", 120, codec="ffv1", numbers=[number] * 120)
        files[id] = looked_at(path, SIZE)
        still = next(frame.to_ndarray(format="yuv420p")[: SIZE[1]] for frame in decode_all(path, path.name))
        stills.append(still)
    edit = do.apply(two_takes(files), do.OverlapClips(clip="coming", frames=9, kind=kind, way=way))
    render(edit, files, None, tmp_path / "out.mkv", "mkv")
    seen = [
        frame.to_ndarray(format="yuv420p")[: SIZE[1]] for frame in decode_all(tmp_path / "out.mkv", "out")
    ]
    axis = 1 if way in ("left", "right") else 0
    side = SIZE[0] if axis == 1 else SIZE[1]
    for k in range(9):
        # As if it went to the right or down; the other ways are that, looked at from the other side.
        turned = [np.flip(each, axis) if way in ("left", "up") else each for each in stills]
        going, coming = (np.swapaxes(each, 0, axis) for each in turned)
        edge = 2 * round(side * (k + 1) / 10 / 2)
        rest = going[: side - edge] if kind == "push" else going[edge:]
        new = coming[side - edge :] if kind == "push" else coming[:edge]
        whole = np.swapaxes(np.concatenate([new, rest]), 0, axis)
        whole = np.flip(whole, axis) if way in ("left", "up") else whole
        np.testing.assert_allclose(seen[CUT - 4 + k].astype(int), whole.astype(int), atol=1)


def test_a_dip_is_black_just_before_the_cut_and_the_hit_on_it_is_seen(tmp_path, grey):
    files, (dark, light) = grey
    edit = do.apply(two_takes(files), do.OverlapClips(clip="coming", frames=8, kind="dip"))
    render(edit, files, None, tmp_path / "out.mkv", "mkv")
    parts = [1 / 4, 2 / 4, 3 / 4, 1, 4 / 5, 3 / 5, 2 / 5, 1 / 5]
    expected = [(dark if k < 4 else light) * (1 - part) + 16 * part for k, part in enumerate(parts)]
    np.testing.assert_allclose(luma(tmp_path / "out.mkv")[CUT - 4 : CUT + 4], expected, atol=0.51)
    assert all(landing.exact for landing in derive(edit).landings)


@pytest.mark.parametrize(
    ("light", "overlap", "kind"),
    [
        (100, 0, "dissolve"), (90, 8, "dissolve"), (60, 15, "dissolve"),
        (60, 9, "wipe"), (90, 9, "push"), (60, 8, "dip"),
        (60, 9, "iris"), (90, 9, "zoom"), (60, 9, "spin"),
    ],
)  # fmt: skip
def test_hits_are_found_in_the_file_under_a_flash_and_within_an_overlap(tmp_path, light, overlap, kind):
    files = {}
    for id, begin in (("dark", 0), ("light", 500)):
        path = write_numbered(tmp_path / f"{id}.mp4", 120, numbers=range(begin, begin + 120))
        files[id] = looked_at(path, SIZE)
    edit = do.apply(two_takes(files), do.OverlapClips(clip="coming", frames=overlap, kind=kind))
    for cue in ("cue-20", f"cue-{CUT}"):
        edit = do.apply(edit, accent("flash", cue=cue, light=light, lead=1, tail=5))
    render(edit, files, None, tmp_path / "out.mp4", "mp4")
    shown, landings = frames_shown(edit), derive(edit).landings
    found = measure(edit, shown, landings, files, None, tmp_path / "out.mp4").landings
    assert [each.measured_frame for each in found] == [20, CUT]
    # The same file, against an edit in which both hits are asked for a frame later: they are early.
    wanted = [each.model_copy(update={"wanted_frame": each.wanted_frame + 1}) for each in landings]
    early = measure(edit, shown, wanted, files, None, tmp_path / "out.mp4").landings
    assert [each.measured_frame for each in early] == [20, CUT]


@pytest.mark.parametrize(("part", "frames", "harms"), [(0.4, 5, True), (0.2, 5, False), (0.4, 12, False)])
def test_a_file_tells_that_its_footage_flashes_too_often(tmp_path, part, frames, harms):
    """WCAG 2.3.1: more than three flashes within a second, over a quarter of the picture."""
    pictures = []
    for n in range(120):
        picture = np.full((SIZE[1], SIZE[0], 3), 90, np.uint8)
        picture[:, : round(part * SIZE[0])] = 200 if n // frames % 2 else 40
        pictures.append(picture)
    files = {id: looked_at(write_colours(tmp_path / f"{id}.mkv", pictures, SIZE, 1), SIZE) for id in "ab"}
    edit = two_takes(files)
    render(edit, files, None, tmp_path / "out.mp4", "mp4")
    read = measure(edit, frames_shown(edit), derive(edit).landings, files, None, tmp_path / "out.mp4")
    assert bool(read.flashing) == harms
    assert all(0 <= stretch.first < stretch.last <= FRAMES for stretch in read.flashing)


def one_take(motion: Motion, rates: tuple[str, str], hit: int, speed: float, reversed: bool) -> Edit:
    """An edit of one take, at one speed to its hit on frame CUT and on."""
    cue = Cue(id="cue", time=float(CUT / Fraction(rates[1])))
    take = Take(
        id="take", media=Media(name="take", path="take"), rate=rates[0], frames=120, distinct=rates[0],
        width=SIZE[0], height=SIZE[1], moments=(Moment(id="hit", frame=hit),),
    )  # fmt: skip
    clip = Clip(
        id="clip", take="take", reversed=reversed, spans=(Steady(speed=speed), Steady(speed=speed)),
        pins=(Pin(id="a", n=CUT - 20), Pin(id="b", cue="cue", moment="hit"), Pin(id="c", n=CUT + 20)),
    )  # fmt: skip
    song = Song(media=Media(name="none", path="none"), duration=9, sample_rate=48000, cues=(cue,))
    return Edit(
        rate=rates[1], width=SIZE[0], height=SIZE[1], song=song, takes=(take,), clips=(clip,), motion=motion
    )


MOTIONS = [Motion(between="blended"), Motion(shutter=180), Motion(between="blended", shutter=360)]
FLOWING = [Motion(between="draft"), Motion(between="fine", shutter=180)]


@pytest.mark.parametrize("reversed", [False, True])
@pytest.mark.parametrize("motion", MOTIONS + FLOWING)
@pytest.mark.parametrize(
    ("native", "rate", "speed"),
    [("25", "60", 1), ("60", "24", 0.8), ("30000/1001", "50", 0.3), ("60", "60", 2)],
)
def test_a_mixed_hit_is_whole_on_its_frame_and_not_there_before(
    tmp_path, motion, native, rate, speed, reversed
):
    """Black up to the hit and white from there on, the way the clip runs; a lossless file, read back."""
    colours = [((20 if (k < 60) != reversed else 235),) * 3 for k in range(120)]
    path = write_colours(tmp_path / "take.mkv", colours, SIZE, matrix=1, rate=Fraction(native))
    files = {"take": looked_at(path, SIZE)}
    dark, light = sorted({int(each) for each in luma(path)})
    edit = one_take(motion, (native, rate), 59 if reversed else 60, speed, reversed)
    out = tmp_path / "out.mkv"
    render(edit, files, None, out, "mkv")
    assert luma(out).tolist() == [dark] * 20 + [light] * 21
    found = measure(edit, frames_shown(edit), derive(edit).landings, files, None, out).landings
    assert [each.measured_frame for each in found] == [CUT]


@pytest.mark.parametrize("reversed", [False, True])
@pytest.mark.parametrize("motion", MOTIONS)
def test_each_mixed_frame_has_the_light_that_its_weights_say(tmp_path, motion, reversed):
    """A take whose every picture is a grey of its own; expected is what the frame map says, in floats."""
    path = write_colours(tmp_path / "take.mkv", [(10 + 2 * k,) * 3 for k in range(120)], SIZE, matrix=1)
    files, levels = {"take": looked_at(path, SIZE)}, luma(path).astype(float)
    edit = one_take(motion, ("60", "60"), 60, 0.45 if motion.shutter == 0 else 1.9, reversed)
    out = tmp_path / "out.mkv"
    render(edit, files, None, out, "mkv")
    shown = frames_shown(edit, counted_in(files))
    mix = shown.mixes[0].between(shown.frames)
    expected = (levels[mix.pictures] * mix.weights).sum(axis=1)
    np.testing.assert_allclose(luma(out), expected, atol=0.51)
    assert (np.abs(expected - levels[shown.picture]) > 0.4).mean() > 0.5
    found = measure(edit, shown, derive(edit).landings, files, None, out).landings
    assert [each.measured_frame for each in found] == [CUT]


@pytest.mark.parametrize("motion", FLOWING)
@pytest.mark.parametrize(("native", "rate", "speed"), [("25", "60", 0.9), ("60", "60", 0.3)])
@pytest.mark.parametrize("reversed", [False, True])
def test_what_moves_evenly_is_seen_where_its_position_says(tmp_path, motion, native, rate, speed, reversed):
    """A soft bar goes across by three pixels a picture; where it is in the file is told from its weight."""
    x = np.arange(SIZE[0])
    moving = [40 + 150 * np.exp(-(((x - 6 - 1.5 * k) / 9) ** 2) / 2) for k in range(120)]
    pictures = [np.broadcast_to(row[None, :, None], (SIZE[1], SIZE[0], 3)).astype(np.uint8) for row in moving]
    path = write_colours(tmp_path / "take.mkv", pictures, SIZE, matrix=1, rate=Fraction(native))
    files = {"take": looked_at(path, SIZE)}
    edit = one_take(motion, (native, rate), 60, speed, reversed)
    out = tmp_path / "out.mkv"
    render(edit, files, None, out, "mkv")
    shown = frames_shown(edit, counted_in(files))
    rows = [f.to_ndarray(format="yuv420p")[50].astype(float) for f in decode_all(out, "out")]
    seen = [((row - row.min()) * x).sum() / (row - row.min()).sum() for row in rows]
    moved = shown.mixes[0].between(shown.frames).how >= HOWS.index("draft")
    assert moved.mean() > 0.5
    expected = 6 + 1.5 * np.where(moved, shown.position, shown.picture)
    np.testing.assert_allclose(np.array(seen)[moved], expected[moved], atol=0.6)


def test_motion_that_was_found_is_kept_and_makes_the_same_file(tmp_path, monkeypatch):
    """Spoilt ones are looked for again; without them the file is what it was, to the byte."""
    path = write_numbered(tmp_path / "take.mkv", 120, Fraction(30))
    files = {"take": looked_at(path, SIZE)}
    edit = one_take(Motion(between="draft"), ("30", "60"), 60, 0.7, False)
    kept = tmp_path / "kept"
    kept.mkdir()
    looked_for = []
    find = flow.flow_of
    monkeypatch.setattr(flow, "flow_of", lambda *asked: looked_for.append(1) or find(*asked))

    def made() -> tuple[bytes, int]:
        for part in kept.glob("*.nut"):
            part.unlink()
        looked_for.clear()
        render(edit, files, None, tmp_path / "out.mkv", "mkv", kept=kept)
        return b"".join(
            frame.to_ndarray().tobytes() for frame in decode_all(tmp_path / "out.mkv", "out")
        ), len(looked_for)

    first, found = made()
    motions = sorted(kept.glob("*.flow"))
    assert found == len(motions) > 5
    assert made() == (first, 0)
    motions[0].write_bytes(b"spoilt")
    motions[1].unlink()
    assert made() == (first, 2)
    assert not [*kept.glob(".part-*")]


planes = st.integers(0, 255).map(lambda level: Planes(*(np.full((4, 4), level, np.uint8),) * 3))


@given(st.lists(st.tuples(planes, st.integers(1, 9)), min_size=2, max_size=9))
def test_pictures_seen_together_come_to_their_weighted_mean(pictures):
    weights = np.array([weight for _, weight in pictures], float)
    weights /= weights.sum()
    expected = sum(each.y.astype(float) * weight for (each, _), weight in zip(pictures, weights, strict=True))
    np.testing.assert_allclose(weighted([each for each, _ in pictures], weights).y, expected, atol=0.51)


@given(st.integers(0, 0xFFFFFF))
def test_a_plain_colour_is_coded_as_bt709_says(colour):
    """Source: ITU-R BT.709, items 3.2 to 3.4: what PyAV makes of the same colour."""
    red, green, blue = colour >> 16, colour >> 8 & 255, colour & 255
    picture = np.full((4, 4, 3), (red, green, blue), np.uint8)
    made = av.VideoFrame.from_ndarray(picture, format="rgb24").reformat(
        format="yuv420p", dst_colorspace=Colorspace.ITU709, dst_color_range=ColorRange.MPEG
    )
    expected = made.to_ndarray()[[0, 4, 5], [0, 0, 0]].astype(int)
    np.testing.assert_allclose(
        [int(each[0, 0]) for each in plain((4, 4), f"#{colour:06x}")], expected, atol=1
    )


@given(planes, planes, st.floats(0, 1))
def test_mixing_and_light_are_what_css_compositing_says(under, over, part):
    """Source: W3C Compositing and Blending Level 1, simple alpha compositing over an opaque backdrop."""
    expected = under.y.astype(float) * (1 - part) + over.y.astype(float) * part
    np.testing.assert_allclose(mixed(under, over, part).y, expected, atol=0.51)
    white = Planes(*(np.full((4, 4), level, np.uint8) for level in (235, 128, 128)))
    for lit, same in zip(flash(under, "#ffffff", part), mixed(under, white, part), strict=True):
        np.testing.assert_allclose(lit.astype(int), same.astype(int), atol=1)


def felt(edit: Edit) -> Edit:
    """An edit with accents of every kind around both its hits."""
    ties = [{"clip": clip.id, "pin": pin.id} for clip in edit.clips for pin in clip.pins if pin.is_tie]
    for kind, values in (
        ("trail", {"lead": 5, "hold": 3, "tail": 8, "copies": 4, "spacing": 1}),
        ("tint", {"blend": "multiply", "hold": 4, "tail": 3}),
        ("shake", {"unit": "frames", "tail": 10, "amount": 0.04, "turn": 3}),
        ("punch", {"tail": 6, "amount": 0.2}),
        ("zoom-blur", {"lead": 2, "tail": 4, "amount": 0.05}),
        ("dim", {"unit": "frames", "lead": 6, "amount": 0.5}),
        ("drain", {"unit": "frames", "phase": "on", "lead": 2, "tail": 4}),
        ("flash", {"lead": 1, "tail": 5, "light": 55}),
        ("letterbox", {"lead": 3, "hold": 3, "tail": 3, "amount": 0.2}),
    ):
        edit = do.apply(edit, accent(kind, at={"to": "ties", "ties": ties}, **values))
    edit = do.apply(edit, accent("strobe", n=CUT - 12, frames=1, hold=4, amount=0.5))
    return do.apply(edit, accent("fade", n=8, lead=4, tail=2))


def test_with_every_accent_on_hits_still_land_in_the_file(tmp_path):
    files = {}
    for id, begin in (("dark", 0), ("light", 500)):
        path = write_numbered(tmp_path / f"{id}.mp4", 120, numbers=range(begin, begin + 120))
        files[id] = looked_at(path, SIZE)
    edit = felt(two_takes(files))
    shown, landings = frames_shown(edit), derive(edit).landings
    assert {look.kind for look in shown.looks} == set(LOOKS)
    assert {layer.echo for layer in shown.layers} == {True, False}
    assert len(landings) == 2
    assert all(landing.exact for landing in landings)
    render(edit, files, None, tmp_path / "out.mp4", "mp4")
    found = measure(edit, shown, landings, files, None, tmp_path / "out.mp4").landings
    assert [each.measured_frame for each in found] == [20, CUT]
    wanted = [each.model_copy(update={"wanted_frame": each.wanted_frame + 1}) for each in landings]
    early = measure(edit, shown, wanted, files, None, tmp_path / "out.mp4").landings
    assert [each.measured_frame for each in early] == [20, CUT], "a hit that is early is found"


def test_a_trail_comes_out_as_its_formula_says(tmp_path):
    """A take of one grey a picture, each another one: what is mixed is told from the sum."""
    levels = [30 + 53 * n % 180 for n in range(120)]
    path = write_colours(tmp_path / "dark.mkv", [(level,) * 3 for level in levels], SIZE, matrix=1)
    files = {"dark": looked_at(path, SIZE), "light": looked_at(path, SIZE)}
    own = luma(path).astype(float)
    edit = do.apply(
        two_takes(files),
        accent("trail", cue="cue-20", lead=0, hold=0, tail=0, copies=3, spacing=2, decay=0.5),
    )
    render(edit, files, None, tmp_path / "out.mkv", "mkv")
    seen, shown = luma(tmp_path / "out.mkv"), frames_shown(edit)
    weights = np.array([1, 0.5, 0.25, 0.125])
    pictures = [int(shown.picture[20 - 2 * k - shown.first]) for k in range(4)]
    expected = own[pictures] @ weights / weights.sum()
    assert seen[20] == pytest.approx(expected, abs=1.1)
    assert abs(own[pictures[0]] - expected) > 5


def test_a_title_is_in_the_file_on_its_frames_and_on_no_others(tmp_path, grey):
    """A card of one colour, and letters in another: what is expected is reckoned from the colours alone."""
    files, (dark, light) = grey
    edit = do.apply(
        two_takes(files), do.AddTitle(text="|", since=10, until=20, size=0.5, across=0.52, **AT_ONCE)
    )
    edit = do.apply(edit, do.EndEdit(at=60, tail=0.5, title="HEAT THREE"))
    render(edit, files, None, tmp_path / "out.mkv", "mkv")
    pictures = [
        frame.to_ndarray(format="yuv420p")[: SIZE[1]] for frame in decode_all(tmp_path / "out.mkv", "")
    ]
    assert len(pictures) == 90
    written = np.array([picture.max() for picture in pictures])
    expected = np.where(np.arange(90) < CUT, dark, light)
    expected[60:] = 235
    expected[10:20] = 235
    np.testing.assert_allclose(written, expected, atol=1)
    # The card is black, and its letters lie around the middle of the frame.
    last = pictures[-1].astype(int)
    assert (last[:20] == 16).all()
    down, across = np.nonzero(last > 128)
    assert abs(down.mean() / SIZE[1] - 0.5) < 0.03
    assert abs(across.mean() / SIZE[0] - 0.5) < 0.03


def test_a_hit_under_a_title_is_measured_where_it_landed(tmp_path):
    files = {
        id: looked_at(write_numbered(tmp_path / f"{id}.mkv", 120, codec="ffv1")) for id in ("dark", "light")
    }
    edit = do.apply(two_takes(files), do.AddTitle(text="HEAT", since=0, until=80, size=0.3, behind="nothing"))
    render(edit, files, None, tmp_path / "out.mkv", "mkv")
    landings = derive(edit).landings
    read = measure(edit, frames_shown(edit), landings, files, None, tmp_path / "out.mkv").landings
    assert [landing.measured_frame for landing in read] == [20, CUT]
