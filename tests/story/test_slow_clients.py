"""Requests half sent do not stop the server."""

import socket
from contextlib import ExitStack
from urllib.parse import urlsplit
from urllib.request import urlopen


def test_requests_half_sent_stop_nobody(address: str) -> None:
    host = urlsplit(address)
    with ExitStack() as open_ones:
        for _ in range(24):
            line = open_ones.enter_context(socket.create_connection((host.hostname or "", host.port or 0)))
            line.sendall(b"GET /health HTTP/1.1\r\nHost: x\r\nX-Slow: ")
        for _ in range(3):
            assert urlopen(f"{address}/health", timeout=20).status == 200
