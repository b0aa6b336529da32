"""One node process for all tests of the front end's helpers."""

from collections.abc import Iterator

import pytest

from tests.frontend.helpers import Helpers


@pytest.fixture(scope="session")
def helpers() -> Iterator[Helpers]:
    running = Helpers()
    yield running
    running.close()
