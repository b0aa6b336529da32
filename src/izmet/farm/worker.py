"""A worker process: ``python -m izmet.farm.worker FOLDER``. It makes parts there until it is ended.

What it may use of the machine is bounded before it believes anything: half of its memory, and so much time
for each part; its files are its own.
"""

from __future__ import annotations

import logging
import os
import shutil
import sys
import threading
from pathlib import Path

import av
from huey.consumer import Consumer
from redis.exceptions import RedisError

from izmet.farm.making import Maker
from izmet.farm.place import Place
from izmet.farm.shared import Shared
from izmet.processes import end_with_parent, limit_memory


def _in_a_line(record: logging.LogRecord) -> bool:
    """Has what huey meets told in a line; that Redis is away is told by ``Maker.tell_forever``, once."""
    if record.name.startswith("huey") and record.exc_info:
        error = record.exc_info[1]
        record.msg, record.args, record.exc_info = f"{record.getMessage()} ({error!r})", None, None
        return not isinstance(error, RedisError)
    return True


def main() -> None:
    """Make parts until terminated."""
    os.umask(0o077)
    limit_memory()
    logging.basicConfig(level=logging.WARNING, format="worker %(process)d: %(message)s")
    logging.getLogger().handlers[0].addFilter(_in_a_line)
    av.logging.set_level(None)
    place = Place.given()
    assert place is not None, "the parent says where the farm is"
    scratch = Path(sys.argv[1])
    shutil.rmtree(scratch, ignore_errors=True)  # what the one before left when it was killed
    scratch.mkdir(parents=True)
    maker = Maker(place.redis, place.key(), Shared(place.media, place.cache), scratch)
    end_with_parent(lambda: None)
    threading.Thread(target=maker.tell_forever, daemon=True).start()
    consumer = Consumer(maker.line.huey, workers=1, periodic=False, max_delay=1.0)
    consumer.run()
    maker.end()
    os._exit(0)  # the work at hand is let go; whoever wants it asks again


if __name__ == "__main__":
    main()
