"""Requests half sent do not stop the server, and many at once do not take all connections of the database."""

import os
import socket
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack
from urllib.parse import urlsplit
from urllib.request import urlopen

import psycopg


def test_requests_half_sent_stop_nobody(address: str) -> None:
    host = urlsplit(address)
    with ExitStack() as open_ones:
        for _ in range(24):
            line = open_ones.enter_context(socket.create_connection((host.hostname or "", host.port or 0)))
            line.sendall(b"GET /health HTTP/1.1\r\nHost: x\r\nX-Slow: ")
        for _ in range(3):
            assert urlopen(f"{address}/health", timeout=20).status == 200


def test_many_at_once_are_answered_over_a_few_connections(address: str, worker_id: str) -> None:
    """A database has some hundred for all machines; each thread of the web would hold one of its own (`settings.py`)."""
    of_web_and_worker = 2 * 6 + 7  # a hand of the worker each, and who listens

    def ask(_: int) -> int:
        return int(urlopen(f"{address}/health", timeout=20).status)

    with ThreadPoolExecutor(40) as many, psycopg.connect(os.environ["DATABASE_URL"], autocommit=True) as server:
        assert set(many.map(ask, range(400))) == {200}
        query = "SELECT count(*) FROM pg_stat_activity WHERE datname = %s"
        (held,) = server.execute(query, [f"bluffside_story_{worker_id}"]).fetchone() or (0,)
    assert 0 < held <= of_web_and_worker
