"""What tells how the installation is: /health for whoever restarts it, /metrics for Prometheus, and the doctor's
sentences for people. All of them see numbers only, and nothing of an account."""

import hmac
import os
import shutil
import socket
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import timedelta
from typing import Any, Literal
from urllib.parse import urlsplit

from django.conf import settings
from django.db import OperationalError, connection
from django.db.migrations.executor import MigrationExecutor
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.utils import timezone
from prometheus_client import CollectorRegistry, generate_latest

from bluffside.server import row_level_security, sql
from bluffside.server.metrics import Installation, figures
from bluffside.server.practice import clock
from bluffside.server.practice.models import WorkerSeen

OLD = 60.0  # seconds; due work that waits longer means that too few workers run, or none
LITTLE = 2 * 1024**3  # bytes of disk


def health(request: HttpRequest) -> HttpResponse:
    """200 when requests can be served, else 503. Asked often, it counts nothing; `worker` says whether one was seen lately,
    and does not decide. How much is due is for /metrics."""
    try:
        worker = WorkerSeen.objects.filter(seen_at__gt=timezone.now() - timedelta(seconds=30)).exists()
    except OperationalError:
        return JsonResponse({"well": False, "says": "The database does not answer."}, status=503)
    return JsonResponse({"well": True, "worker": worker})


def metrics(request: HttpRequest) -> HttpResponse:
    """For whoever holds the token; without one, for this machine alone."""
    token = os.environ.get("BLUFFSIDE_METRICS_TOKEN", "")
    if token:
        given = request.headers.get("Authorization", "").removeprefix("Bearer ")
        allowed = hmac.compare_digest(given.encode(), token.encode())
    else:
        allowed = request.META.get("REMOTE_ADDR") == "127.0.0.1" and "X-Forwarded-For" not in request.headers
    if not allowed:
        return HttpResponse("These figures are for Prometheus.\n", status=403, content_type="text/plain")
    registry = CollectorRegistry()
    registry.register(Installation())
    return HttpResponse(generate_latest(registry), content_type="text/plain; version=0.0.4; charset=utf-8")


@dataclass(frozen=True, slots=True)
class Finding:
    """What the doctor found: "well" is as it should be, "look" wants a person, "wrong" keeps it from working."""

    how: Literal["well", "look", "wrong"]
    says: str


def examine() -> Iterator[Finding]:
    """Everything that can be looked at from here, in sentences that say what to do."""
    try:
        version = _answer("SHOW server_version_num")
    except OperationalError as error:
        yield Finding(
            "wrong", f"The database does not answer: {str(error).strip().splitlines()[0]}. Is PostgreSQL running?"
        )
        return
    yield from _database(int(version))
    yield from _walls()
    yield from _work()
    yield from _surroundings()


def _answer(question: str) -> Any:
    """What PostgreSQL says of itself; no model knows that."""
    return sql.rows(question)[0][0]


def _database(version: int) -> Iterator[Finding]:
    if version < 150000:
        yield Finding("wrong", f"PostgreSQL is version {version // 10000}; 15 or newer is needed.")
    executor = MigrationExecutor(connection)
    if waiting := executor.migration_plan(executor.loader.graph.leaf_nodes()):
        yield Finding("wrong", f"{len(waiting)} migrations are not applied. Run ./bluffside start, or manage migrate.")
        return
    yield Finding("well", "The database answers, and its tables are as this version wants them.")
    for name in ("fsync", "full_page_writes"):
        if _answer(f"SHOW {name}") != "on":
            yield Finding("wrong", f"{name} is off: after a power cut messages may be lost or sent twice. Turn it on.")
    if _answer("SHOW synchronous_commit") == "off":
        yield Finding("wrong", "synchronous_commit is off: after a crash a message may be sent twice. Turn it on.")
    apart = abs((_answer("SELECT clock_timestamp()") - timezone.now()).total_seconds())
    if apart > 5:
        yield Finding(
            "look", f"The clocks of this machine and of the database stand {apart:.0f} seconds apart. Set them."
        )
    month = (clock.now() + timedelta(days=31)).strftime("%Y_%m")
    if _answer(f"SELECT to_regclass('events_event_{month}')") is None:
        yield Finding("look", "Next month has no table of its own yet. A running worker makes it.")


def _walls() -> Iterator[Finding]:
    if row_level_security.may_pass():
        role = _answer("SELECT current_user")
        yield Finding("wrong", f"The application connects as {role}, who sees past the walls between accounts."
                               f" Let it connect as {row_level_security.APP_ROLE}.")  # fmt: skip
    if bare := row_level_security.without_wall():
        yield Finding("wrong", f"No wall stands around {', '.join(bare)}. Run the migrations again.")
    else:
        yield Finding("well", "Every table with an account stands behind a wall.")


def _work() -> Iterator[Finding]:
    found = {(name, label): value for name, label, value in figures()}
    if not found.get(("workers", ""), 0):
        yield Finding("wrong", "No worker was seen in the last half minute: nothing happens by itself. Start one with"
                               " ./bluffside worker.")  # fmt: skip
    else:
        count = found["workers", ""]
        yield Finding("well", "One worker is at work." if count == 1 else f"{count:.0f} workers are at work.")
    for (name, label), value in found.items():
        if name == "queue_age" and value > OLD:
            length = found.get(("queue_length", label), 0)
            yield Finding("look", f"{length:,.0f} things to {label} are due, the oldest for {value:,.0f} seconds."
                                  " Start more workers.")  # fmt: skip
    if aside := found.get(("set_aside", "enrolments"), 0):
        yield Finding("look", f"{aside:.0f} enrolments are set aside, each with its reason. See ./bluffside aside.")
    if events := found.get(("set_aside", "events"), 0):
        yield Finding("look", f"{events:.0f} events could not be handed on. See ./bluffside aside.")
    if uncertain := found.get(("messages", "uncertain"), 0):
        yield Finding("look", f"Of {uncertain:.0f} messages nobody knows whether they went. The account's page of"
                              " workflows shows them.")  # fmt: skip
    if ahead := clock.ahead():
        yield Finding(
            "look", f"The clock was moved ahead by {ahead.days} days and some. Real messages go at made-up times."
        )


def _surroundings() -> Iterator[Finding]:
    free = shutil.disk_usage(settings.ROOT).free
    if free < LITTLE:
        yield Finding("look", f"Only {free / 1024**3:.1f} GB of disk are free here.")
    address = urlsplit(settings.ADDRESS)
    if address.scheme == "http" and address.hostname not in ("127.0.0.1", "localhost"):
        yield Finding("look", f"{settings.ADDRESS} is not https: sign-ins and links can be read on the way.")
    if settings.BLUFFSIDE_SMTP:
        server = urlsplit(settings.BLUFFSIDE_SMTP)

        try:
            socket.create_connection((server.hostname or "", server.port or 25), timeout=5).close()
            yield Finding("well", f"The mail server {server.hostname} answers.")
        except OSError as error:
            yield Finding("wrong", f"The mail server {server.hostname} does not answer: {error}.")
    else:
        yield Finding("well", "Email and texts go to the simulated carrier; nothing leaves this machine.")
