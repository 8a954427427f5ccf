"""Databases for tests. What takes long is made once and kept: an empty database that is migrated, and one in which the short
demo has been lived. Whoever needs a database of their own takes a copy, which costs about a second.

A kept one is made anew when the application's source has changed, and each day, since the demo ends now. Several processes
may ask at once: one makes it, and the others wait.

    python -m tests.databases      makes both ahead, while something else runs
"""

import os
import subprocess
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from functools import cache
from hashlib import sha256
from pathlib import Path
from urllib.parse import urlsplit, urlunsplit

import psycopg
from psycopg import sql

SOURCE = Path(__file__).resolve().parents[1] / "src"
# The demo's clock is moved on to a Wednesday, two in the afternoon in London: what a test sees does not depend on the hour
# at which it runs.
TO_WEDNESDAY = """
import django; django.setup()
from datetime import datetime, time, timedelta
from bluffside.core.timing.local import at_time, to_local
from bluffside.server import moving_the_clock
from bluffside.server.practice import clock
today = to_local(clock.now(), "Europe/London").date()
days = (today + timedelta(days=n) for n in range(9))
moments = (at_time(day, time(14), "Europe/London") for day in days if day.weekday() == 2)
moving_the_clock.run_through(next(at for at in moments if at > clock.now()), clock.move_to)
"""
MIGRATE = ["-m", "django", "migrate", "-v", "0"]


def url_of(name: str) -> str:
    """Where the owner finds a database of the server that DATABASE_URL names."""
    return urlunsplit(urlsplit(os.environ["DATABASE_URL"])._replace(path=f"/{name}"))


def run(name: str, *arguments: str) -> None:
    """Runs Python on a database, as its owner. Raises CalledProcessError."""
    env = os.environ | {"DATABASE_URL": url_of(name), "PYTHONPATH": str(SOURCE)}
    subprocess.run([sys.executable, *arguments], env=env, cwd=SOURCE.parent, check=True)


def blank() -> str:
    """The name of an empty database, migrated. To be copied, not connected to."""
    return _kept("bluffside_blank", lambda name: run(name, *MIGRATE))


def lived() -> str:
    """The name of a database with the short demo, on a Wednesday afternoon. To be copied, not connected to."""

    def live(name: str) -> None:
        run(name, "-m", "django", "load_demo", "--weeks", "2")
        run(name, "-c", TO_WEDNESDAY)

    return _kept("bluffside_lived", live, blank)


@contextmanager
def copy(kept: str, name: str) -> Iterator[str]:
    """A copy of a kept database, gone at the end; gives its owner's URL."""
    with _server() as server:
        _make(server, name, kept)
    try:
        yield url_of(name)
    finally:
        with _server() as server:
            _drop(server, name)


@contextmanager
def empty(name: str) -> Iterator[str]:
    """A database with nothing in it, gone at the end; gives its owner's URL."""
    with copy("template0", name) as url:
        yield url


def _server() -> psycopg.Connection[tuple[object, ...]]:
    return psycopg.connect(os.environ["DATABASE_URL"], autocommit=True)


def _make(server: psycopg.Connection[tuple[object, ...]], name: str, of: str) -> None:
    _drop(server, name)
    server.execute(sql.SQL("CREATE DATABASE {} TEMPLATE {}").format(sql.Identifier(name), sql.Identifier(of)))


def _drop(server: psycopg.Connection[tuple[object, ...]], name: str) -> None:
    server.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(sql.Identifier(name)))


def _kept(name: str, fill: Callable[[str], None], of: Callable[[], str] = lambda: "template0") -> str:
    with _server() as server:
        server.execute("SELECT pg_advisory_lock(hashtext(%s))", [name])  # until this connection ends
        found = server.execute(
            "SELECT shobj_description(oid, 'pg_database') FROM pg_database WHERE datname = %s", [name]
        ).fetchone()
        if found != (_fingerprint(),):
            _make(server, name, of())
            fill(name)
            words = sql.SQL("COMMENT ON DATABASE {} IS {}")
            server.execute(words.format(sql.Identifier(name), sql.Literal(_fingerprint())))
    return name


@cache
def _fingerprint() -> str:
    digest = sha256(f"{datetime.now(UTC):%Y-%m-%d}".encode())
    for path in sorted(path for path in SOURCE.rglob("*") if path.is_file() and path.suffix != ".pyc"):
        digest.update(str(path).encode() + b"\0" + path.read_bytes())
    return digest.hexdigest()


if __name__ == "__main__":
    lived()
