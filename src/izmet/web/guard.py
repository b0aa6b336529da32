"""Who may ask, and what may come back: loopback names only, same origin, strict headers.

The server binds to loopback, but a web page anywhere can make a browser on this
machine send requests here; checking Host stops a rebound name, checking Origin a
foreign page.
"""

from __future__ import annotations

from urllib.parse import urlsplit

from flask import Flask, Response, abort, request

LOOPBACK = {"127.0.0.1", "localhost", "::1"}
JSON_LIMIT = 8 << 20

POLICY = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self'",
        "font-src 'self'",
        "img-src 'self' data:",
        "connect-src 'self'",
        "worker-src 'self'",
        "base-uri 'none'",
        "form-action 'none'",
        "frame-ancestors 'none'",
    )
)


def register(app: Flask) -> None:
    """Check every request and complete every answer."""
    app.config["MAX_CONTENT_LENGTH"] = JSON_LIMIT
    app.before_request(_check)
    app.after_request(_complete)


def _check() -> None:
    if urlsplit(f"//{request.host}").hostname not in LOOPBACK:
        abort(403, "This server answers to loopback names only.")
    origin = request.headers.get("Origin")
    if origin is not None and origin != request.host_url.rstrip("/"):
        abort(403, "This server answers to its own pages only.")


def _complete(response: Response) -> Response:
    response.headers["Content-Security-Policy"] = POLICY
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "no-referrer"
    response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
    response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
    if "Cache-Control" not in response.headers:
        response.headers["Cache-Control"] = "no-store"
    return response
