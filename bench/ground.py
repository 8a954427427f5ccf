"""The ground that benches of the server stand on: a database of their own, an account with people, workers."""

import os
import subprocess
import sys
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from urllib.parse import urlsplit, urlunsplit

import psycopg

DATABASE = "bluffside_bench"
ROOT = Path(__file__).resolve().parents[1]


def timed(what: Callable[[], object]) -> float:
    began = time.perf_counter()
    what()
    return time.perf_counter() - began


def fresh_database(name: str = DATABASE, reuse: bool = False) -> str:
    """An empty database beside the installation's, migrated; its owner's URL. Django is set up on it. With `reuse`, the
    one that is there."""
    server = urlsplit(os.environ["DATABASE_URL"])
    if reuse:
        url = os.environ["DATABASE_URL"] = urlunsplit(server._replace(path=f"/{name}"))
        import django

        django.setup()
        return url
    with psycopg.connect(os.environ["DATABASE_URL"], autocommit=True) as admin:
        admin.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")
        admin.execute(f"CREATE DATABASE {name}")
    url = urlunsplit(server._replace(path=f"/{name}"))
    os.environ["DATABASE_URL"] = url
    import django
    from django.core.management import call_command

    django.setup()
    call_command("migrate", verbosity=0)
    return url


def make_people(account_id: int, count: int, first: int = 0) -> None:
    """So many contacts of an account, with email and mobile number."""
    from bluffside.server import sql

    sql.execute(
        """
        INSERT INTO people_contact (account_id, first_name, last_name, email, mobile, zone, added_at)
        SELECT %s, 'N' || n, 'Vane', 'n' || n || '@example.com', '+4477' || lpad(n::text, 8, '0'), '', now()
          FROM generate_series(%s::int, %s::int) AS n
        """,
        [account_id, first + 1, first + count],
    )
    sql.execute("ANALYZE people_contact")


@contextmanager
def served(url: str) -> Iterator[str]:
    """The web server on a database, as the launcher runs it; its address."""
    from launcher.database import app_url, free_port
    from launcher.running import until_it_answers, web_command

    address = f"http://127.0.0.1:{free_port()}"
    env = os.environ | {"DATABASE_URL": app_url(url), "BLUFFSIDE_ADDRESS": address, "PYTHONPATH": str(ROOT / "src")}
    web = subprocess.Popen([sys.executable, *web_command(address, "error")], env=env, cwd=ROOT)
    try:
        until_it_answers(address)
        yield address
    finally:
        web.terminate()
        web.wait()


@contextmanager
def workers(url: str, count: int, *arguments: str) -> Iterator[list[subprocess.Popen[bytes]]]:
    """Worker processes that connect as the application does."""
    from launcher.database import app_url

    env = os.environ | {"DATABASE_URL": app_url(url), "PYTHONPATH": str(ROOT / "src")}
    command = [sys.executable, "-m", "django", "work", *arguments]
    running = [subprocess.Popen(command, env=env) for _ in range(count)]
    try:
        yield running
    finally:
        for process in running:
            process.terminate()
        for process in running:
            process.wait()


def wait_for(connection: psycopg.Connection, query: str, number: int, patience: float = 600) -> None:
    """Until a query that counts gives a number. Raises TimeoutError."""
    until = time.monotonic() + patience
    while time.monotonic() < until:
        row = connection.execute(query).fetchone()
        if row and row[0] >= number:
            return
        time.sleep(0.05)
    raise TimeoutError(f"{query}: {row} of {number}")


def table(rows: Sequence[tuple[str, float, str]], unit: str) -> None:
    for words, rate, note in rows:
        print(f"  {words:<66} {rate:>10,.0f} {unit}   {note}")


def measure(words: str, what: Callable[[], object], asked: float, runs: int = 100) -> None:
    """Prints the median and the 95th of so many runs, and what that is of the milliseconds that are asked for."""
    took = []
    for _ in range(runs):
        began = time.perf_counter()
        what()
        took.append((time.perf_counter() - began) * 1_000)
    took.sort()
    late = took[int(runs * 0.95) - 1]
    print(f"{words:42} {took[runs // 2]:7.1f} ms, 95th {late:7.1f} ms, {late / asked:4.2f} of what is asked")
