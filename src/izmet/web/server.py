"""Serves a data folder on loopback: waitress, with the worker process beside it."""

from __future__ import annotations

import gc
import logging
import os
import signal
import socket
import sys
import threading
import time
from collections.abc import Callable

import waitress
from flask import Response

from izmet.core.document.refusal import Refusal
from izmet.jobs.reading import queue_outdated
from izmet.jobs.supervisor import Supervisor
from izmet.store.datafolder import DataFolder
from izmet.store.models import database
from izmet.store.uploads import clear_old
from izmet.web.admission import Admission
from izmet.web.app import create_app

log = logging.getLogger(__name__)
LOOK_SECONDS = 2.0
QUEUED = 202
"""How every request is answered that leaves work behind."""
HOST = "127.0.0.1"
THREADS = 12
MOST_BODY_BYTES = 16 << 20
"""Whatever is larger is refused by its length, before any of it is read."""
CONNECTIONS = 2000
"""Open at once; a browser keeps six for as long as it has a tab."""


def serve(
    folder: DataFolder, port: int, page: str, open_to_all: bool, started: Callable[[str, str], None]
) -> None:
    """Serve until interrupted or terminated.

    Args:
        port: 0 for any free one.
        page: where a person begins.
        open_to_all: whether other users of this machine may come in.
        started: called once it answers, with its address and with what to open in a browser.

    Raises:
        Refusal: the port is taken.
    """
    admission = None if open_to_all else Admission(folder)
    app = create_app(folder, admission)
    supervisor = Supervisor(folder)

    @app.after_request
    def ring(response: Response) -> Response:
        if response.status_code == QUEUED:
            supervisor.ring()
        return response

    # SQLite folds its log into the file when the last connection closes; one that stays open spares
    # every request that work on the disk.
    database.connect()
    queue_outdated(app.extensions["izmet.assets"])
    # What is loaded now stays: looking through it for garbage would only make a drag stutter.
    gc.collect()
    gc.freeze()
    listener = socket.socket()
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((HOST, port))
    except OSError:
        raise Refusal(
            "port-taken",
            f"Port {port} is in use.",
            remedy="End the other program, or choose another with --port.",
        ) from None
    server = waitress.create_server(
        app,
        sockets=[listener],
        threads=THREADS,
        max_request_body_size=MOST_BODY_BYTES,
        channel_timeout=600,
        connection_limit=CONNECTIONS,
        asyncore_use_poll=True,
    )
    folder.clear_interrupted()
    clear_old(folder.incoming)
    supervisor.start()
    signal.signal(signal.SIGTERM, lambda number, frame: sys.exit(0))
    threading.Thread(target=_end_without, args=(folder,), daemon=True).start()
    address = f"http://{HOST}:{listener.getsockname()[1]}"
    started(address, admission.address(address + page) if admission else address + page)
    try:
        server.run()
    finally:
        supervisor.stop()
        server.close()
        database.close()


def _end_without(folder: DataFolder) -> None:
    """End this server when its data is gone: it could keep nothing, and would complain for ever."""
    while folder.database.exists():
        time.sleep(LOOK_SECONDS)
    log.error("the data folder has gone, so this server ends: %s", folder.root)
    os.kill(os.getpid(), signal.SIGTERM)
