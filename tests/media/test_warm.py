"""Work apart: what goes wrong ends with its fork, within its limits, and the next is done all the same."""

import os
import signal

from izmet.media.warm import Warm


def test_whatever_goes_wrong_the_next_piece_of_work_is_done():
    warm = Warm("tests.media.mishaps")
    first = warm.ask("nothing")
    assert first.code == 0
    assert first.answer is not None
    assert first.answer.startswith("nothing, ")
    assert warm.ask("memory") == (None, 1)
    assert warm.ask("work") == (None, -signal.SIGXCPU)
    assert warm.ask("time") == (None, None)
    assert warm.ask("end") == (None, -signal.SIGABRT)
    again = warm.ask("nothing")
    assert again.code == 0
    assert again.answer != first.answer, "each in a process of its own"


def test_a_process_that_was_killed_is_started_again_and_one_alone_serves():
    warm = Warm("tests.media.mishaps")
    warm.ask("nothing")
    process = warm._process
    assert process is not None
    assert warm.ask("nothing").code == 0
    assert warm._process is process
    os.kill(process.pid, signal.SIGKILL)
    process.wait()
    assert warm.ask("nothing").code == 0
