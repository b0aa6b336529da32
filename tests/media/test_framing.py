"""A take of other proportions fills the picture or is fitted in; high dynamic range looks as it should."""

import av
import numpy as np
import pytest

from izmet.core import commands as do
from izmet.core.document.edit import Clip, Edit, Media, Steady, Take
from izmet.core.document.places import Pin
from izmet.media.drawing import place
from izmet.media.hdr import hlg_light, pq_light
from izmet.media.pictures import decode_all, small_luma

SQUARE = 96


def square_edit(width=192, height=96) -> Edit:
    take = Take(
        id="t", media=Media(name="square", path="t"), rate="60", frames=2, distinct="60",
        width=SQUARE, height=SQUARE,
    )  # fmt: skip
    clip = Clip(id="c", take="t", pins=(Pin(id="a", n=0, p=0), Pin(id="b", n=1, p=1)), spans=(Steady(),))
    return Edit(rate="60", width=width, height=height, takes=(take,), clips=(clip,))


def slope() -> av.VideoFrame:
    """Grey that grows from left to right and from top to bottom."""
    ramp = np.linspace(40, 120, SQUARE)
    return av.VideoFrame.from_ndarray((ramp[:, None] + ramp[None, :]).astype(np.uint8), format="gray")


def shown(edit: Edit) -> np.ndarray:
    return place(edit, edit.clips[0], slope()).to_ndarray(format="gray").astype(int)


def test_a_clip_fills_the_picture_and_its_place_can_be_chosen():
    edit = square_edit()
    middle = shown(edit)
    assert middle.min() > 60, "no black edge unless it is asked for"
    top = shown(do.apply(edit, do.FrameClip(clip="c", down=0)))
    bottom = shown(do.apply(edit, do.FrameClip(clip="c", down=1)))
    assert top.mean() + 15 < middle.mean() < bottom.mean() - 15
    assert abs(top[0, 0] - shown(square_edit(96, 96))[0, 0]) <= 3, "the corner itself"
    tall = do.apply(square_edit(96, 192), do.FrameClip(clip="c", across=1))
    assert shown(tall).mean() > shown(square_edit(96, 192)).mean() + 15


def test_a_clip_that_is_fitted_in_has_black_beside_it():
    edit = do.apply(square_edit(), do.FrameClip(clip="c", fit="fit"))
    picture = shown(edit)
    assert picture[:, :40].max() <= 2
    assert picture[:, -40:].max() <= 2
    assert picture[:, 50:142].min() > 60
    left = shown(do.apply(edit, do.FrameClip(clip="c", across=0)))
    assert left[:, :92].min() > 60
    assert left[:, 100:].max() <= 2


def test_transfers_are_those_of_the_standards():
    """SMPTE ST 2084 and ITU-R BT.2408: PQ 58 % and HLG 75 % are reference white, 203 cd/m²; from memory."""
    assert pq_light(np.array([1.0], np.float32))[0] == pytest.approx(10000, rel=1e-3)
    assert pq_light(np.array([0.508078], np.float32))[0] == pytest.approx(100, rel=0.01)
    assert pq_light(np.array([0.58], np.float32))[0] == pytest.approx(203, rel=0.02)
    assert hlg_light(np.array([0.75], np.float32))[0] == pytest.approx(203, rel=0.01)
    assert hlg_light(np.array([1.0], np.float32))[0] == pytest.approx(1000, rel=1e-3)


def hdr_file(path, transfer: str, code: float):
    """A grey take in 10 bits with one code value."""
    with av.open(str(path), "w") as container:
        params = f"transfer={transfer}:colorprim=bt2020:colormatrix=bt2020nc"
        stream = container.add_stream("libx264", rate=30, options={"x264-params": params, "crf": "4"})
        stream.width, stream.height, stream.pix_fmt = 64, 64, "yuv420p10le"
        for _ in range(3):
            frame = av.VideoFrame(64, 64, "yuv420p10le")
            for plane, level in zip(frame.planes, (round((16 + 219 * code) * 4), 512, 512), strict=True):
                np.frombuffer(memoryview(plane), np.uint16)[:] = level
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


@pytest.mark.parametrize(
    ("transfer", "code", "expected"),
    [
        ("smpte2084", 0.58, 247),  # reference white, rolled off: (0.8 + 0.2(1 − 1/e))^(1/2.4)
        ("smpte2084", 0.3, 73),  # 10.1 cd/m²: (10.1 / 203)^(1/2.4)
        ("smpte2084", 1.0, 255),
        ("arib-std-b67", 0.75, 247),
        ("arib-std-b67", 0.5, 143),  # 50.7 cd/m²
        ("smpte2084", 0.0, 0),
    ],
)
def test_a_bright_take_is_mapped_for_what_is_seen_and_what_is_exported(tmp_path, transfer, code, expected):
    path = hdr_file(tmp_path / "bright.mkv", transfer, code)
    edit = square_edit(64, 64)
    take = edit.takes[0].model_copy(update={"width": 64, "height": 64})
    edit = edit.model_copy(update={"takes": (take,)})
    for frame in decode_all(path, "bright"):
        exported = place(edit, edit.clips[0], frame).to_ndarray(format="rgb24")[8:-8, 8:-8]
        seen = small_luma(frame, (32, 32))[8:-8, 8:-8]
        assert np.abs(exported.astype(int) - expected).max() <= 3
        assert np.abs(seen.astype(int) - expected).max() <= 3
