"""The connections of an account as a page shows them: how each stands, what it last said, who uses it, what came of it in 30 days;
testing one, and switching it off and on."""

import secrets
from collections.abc import Iterator, Mapping
from datetime import datetime, timedelta
from typing import Literal, NamedTuple, get_args
from urllib.parse import urlsplit

from django.conf import settings
from django.db import transaction
from django.db.models import Count, Q, QuerySet

from bluffside.core.phone_numbers import as_written
from bluffside.core.steps.webhook import Webhook
from bluffside.core.terms import ADDRESS_OF, CHANNELS, Channel
from bluffside.core.workflow.document import walk
from bluffside.core.workflow.references import references
from bluffside.server.capture import leads
from bluffside.server.capture.models import Lead, LeadSource
from bluffside.server.hooks import sending as hooks
from bluffside.server.hooks.models import Call
from bluffside.server.hooks.services import where_is
from bluffside.server.messaging import testing
from bluffside.server.messaging.carrier import NotConnected, carrier_for
from bluffside.server.messaging.inbound import test_round
from bluffside.server.messaging.models import Message, Reply, StrangerMail
from bluffside.server.messaging.outbox import SWITCHED_OFF
from bluffside.server.practice import clock, connections, installation
from bluffside.server.practice.connections import Kind
from bluffside.server.practice.models import Account, Connection, Person
from bluffside.server.set_up.depending import Named, Published, those
from bluffside.server.wake import wake

LATELY = timedelta(days=30)
State = Literal["broken", "silent", "works", "unused", "not connected", "off"]
FIRST: tuple[State, ...] = get_args(State)  # by need


class CannotTest(ValueError):
    """In words."""


class Done(NamedTuple):
    """In 30 days; `waiting`: now."""

    total: int = 0
    failed: int = 0
    waiting: int = 0


class Shown(NamedTuple):
    """`about`: what is said of it under its name. `since`: of the state. `needs_key`: what it last answered says that it lets
    nobody in by the key there is. `test`: whether it can be tried; `testing`: a try is on its way."""

    kind: Kind
    name: str
    title: str
    about: str
    state: State
    since: datetime | None
    said: str
    said_at: datetime | None
    off_by: str
    used_by: list[Named]
    done: Done
    test: bool
    testing: bool
    can_switch: bool
    key_header: str
    key_at: datetime | None
    takes_key: bool
    needs_key: bool
    expected_days: int | None
    can_expect: bool
    source_id: int


def shown(account: Account, workflows: Published) -> list[Shown]:
    """Those that need somebody first, then by what they are."""
    rows = {(one.kind, one.name): one for one in account.connections.select_related("off_by")}
    found = [*_channels(account, workflows, rows), _mail(account, rows), *_requests(account, workflows, rows)]
    found += _sources(account, workflows, rows)
    missed = FIRST.index("silent") + 0.5  # what is off although workflows use it
    return sorted(found, key=lambda one: missed if one.state == "off" and one.used_by else FIRST.index(one.state))


Rows = Mapping[tuple[str, str], Connection]


def _channels(account: Account, workflows: Published, rows: Rows) -> Iterator[Shown]:
    since = clock.now() - LATELY
    sent = _counts(Message.objects.filter(account=account, sent_at__gte=since), "channel", failed=Q(state="failed"))
    waits = Q(state="queued", attempts__gt=0) | Q(state="held", reason=SWITCHED_OFF)
    waiting = _counts(Message.objects.filter(waits, account=account), "channel")
    for channel in CHANNELS:
        done = Done(*sent.get(channel, (0, 0)), waiting.get(channel, (0, 0))[0])
        carried = not isinstance(carrier_for(channel), NotConnected)
        members = ADDRESS_OF[channel] in ("email", "mobile")
        yield _one(
            account, workflows, rows, "channel", channel, _about_channel(account, channel, carried), done,
            carried=carried, test=carried and members,
        )  # fmt: skip


def _about_channel(account: Account, channel: Channel, carried: bool) -> str:
    usual = {"email": account.sender_email, "text": as_written(account.text_number, account.region)}.get(channel, "")
    ours = f"from {usual}" if usual else ""
    if not carried:
        return "nothing carries them here yet: whoever runs the installation names the carrier"
    if channel == "email" and settings.BLUFFSIDE_SMTP:
        how = f"through {urlsplit(settings.BLUFFSIDE_SMTP).hostname}"
    elif channel in settings.BLUFFSIDE_CARRIERS:
        how = f"carried by {settings.BLUFFSIDE_CARRIERS[channel].split('.')[0]}"
    else:
        how = "simulated: nothing leaves this machine"
    return ", ".join(filter(None, (ours, how)))


def _mail(account: Account, rows: Rows) -> Shown:
    since = clock.now() - LATELY
    came = Reply.objects.filter(account=account, channel="email", received_at__gte=since).count()
    came += StrangerMail.objects.filter(account=account, received_at__gte=since).count()
    about = f"answers to {account.sender_email}" if account.sender_email else "no address yet that people answer to"
    return _one(
        account, {}, rows, "mail", "", about, Done(came), test=bool(account.sender_email), switched=False, expects=True
    )


def _requests(account: Account, workflows: Published, rows: Rows) -> Iterator[Shown]:
    since = clock.now() - LATELY
    asked = _counts(
        Call.objects.filter(account=account, made_at__gte=since), "connection", failed=Q(state=Call.State.FAILED)
    )
    waiting = _counts(Call.objects.filter(account=account, state=Call.State.QUEUED), "connection")
    needed = {one for document in workflows.values() for step in walk(document.steps) for one in step.connections()}
    needed |= {tuple(one.split(":", 1)) for one in asked | waiting if ":" in one} | set(rows)  # type: ignore[arg-type]
    for kind, name in sorted(one for one in needed if one[0] in hooks.KINDS and one[1]):
        at = f"{kind}:{name}"
        done = Done(*asked.get(at, (0, 0)), waiting.get(at, (0, 0))[0])
        sort: Kind = "service" if kind == "service" else "host"
        yield _one(
            account, workflows, rows, sort, name, _about_request(sort, name), done,
            test=bool(_address(account, sort, name, workflows)), takes_key=True,
        )  # fmt: skip


def _about_request(kind: Kind, name: str) -> str:
    if kind == "host":
        return "asked by lines of workflows"
    if name in settings.BLUFFSIDE_SERVICES:
        return f"at {urlsplit(where_is(name)).hostname}"
    return (
        "simulated: nothing leaves this machine"
        if installation.simulates("services")
        else "nobody has said where it is"
    )


def _sources(account: Account, workflows: Published, rows: Rows) -> Iterator[Shown]:
    since = clock.now() - LATELY
    came = _counts(
        Lead.objects.filter(account=account, at__gte=since), "source__name", failed=Q(state=Lead.State.FAILED)
    )
    waiting = _counts(Lead.objects.filter(account=account, state=Lead.State.WAITING), "source__name")
    for one in account.lead_sources.order_by("name"):
        done = Done(*came.get(one.name, (0, 0)), waiting.get(one.name, (0, 0))[0])
        yield _one(
            account, workflows, rows, "source", one.name, "at an address of its own", done,
            test=one.sample is not None, expects=True, source=one,
        )  # fmt: skip


def _counts(
    rows: QuerySet[Message] | QuerySet[Call] | QuerySet[Lead], by: str, failed: Q | None = None
) -> dict[str, tuple[int, int]]:
    """How many, and how many of them failed, by the value of a column."""
    few = rows.order_by().values_list(by).annotate(n=Count("id"), failed=Count("id", filter=failed or Q(pk=None)))
    return {value: (count, failures) for value, count, failures in few}


def _one(
    account: Account, workflows: Published, rows: Rows, kind: Kind, name: str, about: str, done: Done, *,
    carried: bool = True, test: bool = False, switched: bool = True, takes_key: bool = False, expects: bool = False,
    source: LeadSource | None = None,
) -> Shown:  # fmt: skip
    row = rows.get((kind, name)) or Connection(account=account, kind=kind, name=name)
    off, silent = row.off_at is not None or (source is not None and not source.on), connections.silent_since(row)
    state: State = "works" if row.since or done.total else "unused"
    since = row.since
    if off:
        state, since = "off", row.off_at
    elif row.fault:
        state = "broken"
    elif silent:
        state, since = "silent", silent
    elif not carried:
        state, since = "not connected", None
    return Shown(
        kind, name, connections.label(kind, name), about, state, since,
        said=row.fault or row.said, said_at=row.said_at if row.fault or row.said else None,
        off_by=row.off_by.name if row.off_by else "", used_by=_used_by(workflows, kind, name), done=done, test=test and not off,
        testing=bool(row.test), can_switch=switched, key_header=row.key_header, key_at=row.key_at, takes_key=takes_key,
        needs_key=takes_key and row.fault.startswith(tuple(str(one) for one in hooks.KEPT_OUT)),
        expected_days=row.expected_days, can_expect=expects, source_id=source.pk if source else 0,
    )  # fmt: skip


def _used_by(workflows: Published, kind: Kind, name: str) -> list[Named]:
    if kind == "source":
        return those(workflows, lambda one: any((ref.kind, ref.name) == (kind, name) for ref in references(one)))
    return those(workflows, lambda one: any((kind, name) in step.connections() for step in walk(one.steps)))


# ---- trying one


def try_out(account: Account, kind: Kind, name: str, workflows: Published, by: Person) -> str:
    """Tries a connection; answers what was done, or found, in words. Raises CannotTest."""
    if kind == "channel" and name in CHANNELS:
        channel: Channel = name
        words = "This message was sent to see whether the connection works. It does."
        try:
            to = testing.to_oneself(account, by, channel, "does the connection work?", words)
        except testing.NotSent as error:
            raise CannotTest(f"It could not be tried: {error}") from None
        return f"A message went to {to}: when it is there, the connection works."
    if kind == "mail":
        try:
            to = test_round(account)
        except testing.NotSent as error:
            raise CannotTest(f"It could not be tried: {error}") from None
        return f"A mail went to {to}. When it comes in here, answers do, too."
    if kind == "source":
        return _understood(account, name)
    return _ask(account, kind, name, workflows)


def _understood(account: Account, name: str) -> str:
    source = LeadSource.objects.filter(account=account, name=name).first()
    if source is None or source.sample is None:
        raise CannotTest("Nothing has come from it yet. Have the other system send a test to its address.")
    try:
        became = leads.understood(account, leads.Matching.model_validate(source.matching), source.sample)
    except ValueError as error:
        raise CannotTest(f"What it sent last would become nobody: {error}.") from None
    said = ", ".join(
        f"{key.removeprefix('field:').replace('_', ' ')} {value}" for key, value in became.items() if value
    )
    return f"What it sent first would become: {said}."


@transaction.atomic
def _ask(account: Account, kind: Kind, name: str, workflows: Published) -> str:
    """A request that changes nothing (GET is safe: RFC 9110, 9.2.1), made by the worker as all are."""
    if kind not in hooks.KINDS or not (url := _address(account, kind, name, workflows)):
        raise CannotTest("No line and no request names an address there yet, so there is nothing to ask.")
    key = f"{hooks.TEST}{secrets.token_hex(8)}"
    row, _ = Connection.objects.get_or_create(account=account, kind=kind, name=name)
    row.test, row.test_at = key, clock.now()
    row.save(update_fields=["test", "test_at"])
    service = name if kind == "service" else ""
    hooks.queue(account, [hooks.NewCall(None, None, key, "GET", url, "", service=service)])
    return "It is being asked. What it answers stands here in a moment."


def _address(account: Account, kind: Kind, name: str, workflows: Published) -> str:
    """Where requests to it go: where the last went, else where a line says."""
    if kind == "service":
        return where_is(name)
    last = (
        Call.objects.filter(account=account, connection=f"{kind}:{name}").order_by("-id").values_list("url", flat=True)
    )
    if url := last.first():
        return url
    steps = (step for document in workflows.values() for step in walk(document.steps))
    return next((one.url for one in steps if isinstance(one, Webhook) and ("host", name) in one.connections()), "")


# ---- off and on, keys


@transaction.atomic
def switch(account: Account, kind: Kind, name: str, on: bool, by: Person) -> None:
    """What waits in the outbox stays until it is decided upon; requests and leads that wait go on at once."""
    if kind == "source":
        if source := LeadSource.objects.filter(account=account, name=name).first():
            leads.switch(source, on, by)
            if on:
                leads.replay(source)
        return
    connections.switch(account, kind, name, on, by)
    if on:
        wake("calls")


@transaction.atomic
def put_key_in(account: Account, kind: Kind, name: str, header: str, key: str, by: Person) -> None:
    """Requests that wait go with it at once. A key for the Authorization header without a scheme is a bearer's (RFC 6750)."""
    if key and header.lower() == "authorization" and " " not in key:
        key = f"Bearer {key}"
    connections.put_in(account, kind, name, header, key, by)
    waits = Call.objects.filter(account=account, connection=f"{kind}:{name}", state=Call.State.QUEUED)
    waits.update(next_try_at=clock.now())
    wake("calls")


def tried_again(account: Account, kind: Kind, name: str) -> int:
    """Requests that failed are made once more; answers how many."""
    failed = Call.objects.filter(account=account, connection=f"{kind}:{name}", state=Call.State.FAILED)
    count = failed.update(state=Call.State.QUEUED, attempts=0, next_try_at=clock.now(), settled_at=None)
    wake("calls")
    return count
