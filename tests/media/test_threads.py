"""Does what is encoded leave the machine to others?"""

from __future__ import annotations

import os
from fractions import Fraction

import av
import pytest

from izmet.media.formats import FORMATS
from izmet.media.threads import OWN
from izmet.media.writer import PartWriter

FILMED = sorted(name for name, format in FORMATS.items() if format.video is not None)


@pytest.mark.skipif(not OWN.exists(), reason="the system tells nothing of threads")
@pytest.mark.parametrize("name", FILMED)
def test_no_thread_goes_before_all_others(name, tmp_path):
    """Only root may ask for that at all: run as anybody else it cannot fail."""
    with PartWriter(tmp_path / "part", FORMATS[name].video, "good", Fraction(30), (320, 180)) as writer:
        for _ in range(12):
            writer.add(av.VideoFrame(320, 180, "yuv420p"))
        orders = {os.sched_getscheduler(int(thread.name)) for thread in OWN.iterdir()}
        assert orders == {os.SCHED_OTHER}
    assert os.sched_getscheduler(0) == os.SCHED_OTHER
