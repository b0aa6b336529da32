"""What the browser is told of the motion between two pictures of a pack."""

from fractions import Fraction

import numpy as np
import pytest

from izmet.media.pack import BOUNDS, write_pack
from izmet.media.packflow import pack_flow
from izmet.media.pictures import fit
from tests.media.files import write_colours
from tests.picture.test_flow import SIZE, texture

DX, DY = 5, -3


@pytest.fixture(scope="module")
def pack(tmp_path_factory):
    """Two pictures of a scene that moves, one of another scene, and where to find them."""
    folder = tmp_path_factory.mktemp("pack")
    greys = [texture(0, 0), texture(DX, DY), texture(0, 0, seed=7)]
    pictures = [np.repeat(grey[..., None], 3, axis=2) for grey in greys]
    take = write_colours(folder / "take.mkv", pictures, SIZE, matrix=1, rate=Fraction(25))
    write_pack(take, take.name, SIZE, folder / "pack", folder / "index", lambda done: None)
    return folder / "pack", folder / "index"


def test_motion_there_and_back_and_its_trust_are_told_in_pixels_of_the_pack(pack):
    told = pack_flow(*pack, 0, 1)
    wide, high, fine_wide, fine_high = np.frombuffer(told, "<u2", 4).tolist()
    astray = float(np.frombuffer(told, "<f4", 1, offset=8)[0])
    motion = np.frombuffer(told, "<f2", 4 * wide * high, offset=12).reshape(high, wide, 4)
    trust = np.frombuffer(told, np.uint8, offset=12 + motion.nbytes)
    size = fit(SIZE, BOUNDS)
    assert (wide, high, fine_wide, fine_high) == (size[0] // 4, size[1] // 4, size[0] // 2, size[1] // 2)
    assert len(trust) == fine_wide * fine_high
    moved = np.array([DX, DY, -DX, -DY])
    np.testing.assert_allclose(np.median(motion, axis=(0, 1)), moved * size[0] / SIZE[0], atol=0.4)

    assert 0 <= astray < 0.2
    assert trust.mean() > 200


def test_nothing_is_told_between_two_scenes_nor_of_pictures_that_are_not_there(pack):
    assert pack_flow(*pack, 1, 2) == b""
    assert pack_flow(*pack, 1, 9) is None
