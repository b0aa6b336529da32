"""Stand-ins for what several machines share: a Redis that keeps nothing, and an S3 store in memory (moto).

``python -m tests.standins`` (`make stand-ins`) starts both and says how Izmet and its workers find them.
"""

from __future__ import annotations

import secrets
import shutil
import socket
import subprocess
import tempfile
import threading
import time
from pathlib import Path

import fsspec
import redis
from moto.moto_server.werkzeug_app import (
    DomainDispatcherApplication,
    MotoRequestHandler,
    create_backend_app,
)
from werkzeug.serving import make_server

REDIS = shutil.which("redis-server") or "/usr/bin/redis-server"
BUCKET = "race"
START_SECONDS = 30


class RedisServer:
    """A Redis that keeps nothing when it ends."""

    def __init__(self) -> None:
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.url = f"redis://127.0.0.1:{self.port}/0"
        self.start()

    def start(self) -> None:
        """Start it, or start it again, and wait until it answers."""
        command = [REDIS, "--port", str(self.port), "--bind", "127.0.0.1", "--save", "", "--appendonly", "no"]
        self._process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
        end = time.monotonic() + START_SECONDS
        while not self._answers():
            assert time.monotonic() < end, "Redis does not answer"
            time.sleep(0.02)

    def kill(self) -> None:
        """End it without a warning."""
        self._process.kill()
        self._process.wait()

    def _answers(self) -> bool:
        try:
            return bool(redis.Redis.from_url(self.url).ping())
        except redis.ConnectionError:
            return False


class S3Store:
    """A store with an empty ``BUCKET``, kept in this process; it may go away and come back."""

    def __init__(self) -> None:
        self._app = DomainDispatcherApplication(create_backend_app)
        self._port = 0
        self.start()
        self.environment = {
            "AWS_ENDPOINT_URL": f"http://127.0.0.1:{self._port}",
            "AWS_ACCESS_KEY_ID": "id",
            "AWS_SECRET_ACCESS_KEY": "secret",
            "AWS_DEFAULT_REGION": "us-east-1",
        }
        said = {"endpoint_url": self.environment["AWS_ENDPOINT_URL"], "key": "id", "secret": "secret"}
        fsspec.filesystem("s3", **said).mkdir(BUCKET)

    def start(self) -> None:
        """Answer, at the same port as before."""
        server = make_server("127.0.0.1", self._port, self._app, threaded=True, request_handler=_OneEach)
        self._server, self._port = server, server.port
        threading.Thread(target=server.serve_forever, daemon=True).start()

    def stop(self) -> None:
        """Answer no more; what was kept stays."""
        self._server.shutdown()
        self._server.server_close()


class _OneEach(MotoRequestHandler):
    """Ends a connection after each answer, so that none outlives its server, and logs none."""

    protocol_version = "HTTP/1.0"

    def log_request(self, *told: object) -> None:
        """Say nothing."""


def main() -> None:
    """Start both, and say what to put into the environment."""
    redis_server = RedisServer()
    said = S3Store().environment
    with tempfile.TemporaryDirectory() as folder:
        key = Path(folder) / "key"
        key.write_text(secrets.token_hex(32))
        said |= {"IZMET_REDIS": redis_server.url, "IZMET_KEY_FILE": f"{key}"}
        said["IZMET_MEDIA"] = f"s3://{BUCKET}/izmet"
        print("\n".join(f"export {name}={value}" for name, value in said.items()), flush=True)
        try:
            threading.Event().wait()
        except KeyboardInterrupt:
            redis_server.kill()


if __name__ == "__main__":
    main()
