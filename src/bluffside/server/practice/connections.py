"""What an account is connected to outside: whether each works, since when, what it said last, and whether it is switched on.

kind      its name            what it is
channel   email, text, …      messages going out, each channel by its carrier
mail      ""                  mail coming in
service   series, …           an outside service that has a step of its own
host      a host's name       where other requests go
source    the source's name   leads coming in

A row is there once something is known, or was said, of a connection. Who uses one tells what came of it (`heard`); the row is
written when that is news, or a minute later. Nothing is asked of a connection here.
"""

from collections.abc import Callable, Iterable, Mapping
from datetime import datetime, timedelta
from typing import Literal

from django.db import transaction

from bluffside.core.terms import SEVERAL
from bluffside.core.workflow.house import Trouble
from bluffside.server.practice import audit, clock
from bluffside.server.practice.models import Account, Connection, Person
from bluffside.server.practice.sealing import seal

Kind = Literal["channel", "mail", "service", "host", "source"]
Did = Literal["works", "nothing", "refuses"]
"""works: it answered; nothing: no answer this time; refuses: it cannot be reached at all, or lets nobody in."""

FRESH = timedelta(minutes=1)
MOST_IN_VAIN = 3  # tries without an answer after which it does not work
SERVICES = {"series": "Lists and series"}


_broken: list[Callable[[Connection], None]] = []


def when_broken(tell: Callable[[Connection], None]) -> None:
    """Called when apps are ready: who is told that a connection does not work any more."""
    _broken.append(tell)


def label(kind: str, name: str) -> str:
    """What people call it, as a sentence begins."""
    match kind:
        case "channel":
            return SEVERAL[name].capitalize()
        case "mail":
            return "Mail coming in"
        case "service":
            return SERVICES.get(name, name.replace("_", " ").capitalize())
        case "source":
            return f"Leads from {name}"
        case _:
            return f"Requests to {name}"


def heard(account: Account, kind: Kind, name: str, did: Did, said: str) -> None:
    """What came of using it, in the transaction at hand or by itself."""
    now, said = clock.now(), said.replace("\0", "")[:300]
    row = Connection.objects.filter(account=account, kind=kind, name=name).first()
    vain = 0 if did == "works" else (row.in_vain if row else 0) + 1
    broken = did == "refuses" or (did == "nothing" and (vain >= MOST_IN_VAIN or bool(row and row.fault)))
    fault = said or "it does not answer" if broken else (row.fault if row and did == "nothing" else "")
    known = did != "nothing" or broken
    if row and row.since and row.fault == fault and row.said_at and now - row.said_at < FRESH and vain == row.in_vain:
        return
    turned = row is None or bool(row.fault) != bool(fault) or row.since is None
    since = now if turned and known else row.since if row else None
    values = {"fault": fault, "since": since, "said": said, "said_at": now, "in_vain": min(vain, 30_000)}
    kept, _ = Connection.objects.update_or_create(account=account, kind=kind, name=name, defaults=values)
    if fault and turned:
        for tell in _broken:
            tell(kept)


def switched_off(account: Account, kind: Kind) -> frozenset[str]:
    """The names of those of a kind that somebody has switched off."""
    rows = Connection.objects.filter(account=account, kind=kind, off_at__isnull=False)
    return frozenset(rows.values_list("name", flat=True))


def rests(account: Account, kind: Kind, name: str) -> bool:
    """Whether it is not to be used now: it is switched off, or did not work a moment ago."""
    row = Connection.objects.filter(account=account, kind=kind, name=name).first()
    if row is None:
        return False
    lately = row.said_at is not None and clock.now() - row.said_at < FRESH
    return row.off_at is not None or (bool(row.fault) and lately)


@transaction.atomic
def switch(account: Account, kind: Kind, name: str, on: bool, by: Person) -> None:
    row, _ = Connection.objects.select_for_update().get_or_create(account=account, kind=kind, name=name)
    if on == (row.off_at is None):
        return
    row.off_at, row.off_by = (None, None) if on else (clock.now(), by)
    row.save(update_fields=["off_at", "off_by"])
    old, new = ("off", "on") if on else ("on", "off")
    audit.note(account, by, "connections", [audit.Noted(label(kind, name), old, new)])


def expect(account: Account, kind: Kind, name: str, days: int | None, by: Person) -> None:
    """How often something is expected from it, counted from now where nothing ever came; None: nobody knows."""
    row, _ = Connection.objects.get_or_create(account=account, kind=kind, name=name)
    old, row.expected_days, row.said_at = row.expected_days, days, row.said_at or clock.now()
    row.save(update_fields=["expected_days", "said_at"])
    words = [f"at least every {one} days" if one else "no matter how often" for one in (old, days)]
    audit.note(account, by, "connections", [audit.Noted(f"{label(kind, name)}, expected", *words)])


def silent_since(row: Connection) -> datetime | None:
    """Since when nothing has come from it although something should have; None while all is well."""
    if not row.expected_days or row.off_at or row.said_at is None:
        return None
    return row.said_at if clock.now() - row.said_at > timedelta(days=row.expected_days) else None


def why_out_of_order(row: Connection) -> str:
    """As a sentence; empty when it is in order."""
    called = label(row.kind, row.name)
    if row.off_at:
        by = f" by {row.off_by.name}" if row.off_by else ""
        return f"{called}: switched off{by}. Nothing goes by it until it is on again."
    if row.fault:
        return f"{called}: it does not work ({row.fault.rstrip('.')})."
    if silent_since(row):
        return f"{called}: nothing has come for more than {row.expected_days} days."
    return ""


def out_of_order(account: Account) -> Mapping[tuple[str, str], Trouble]:
    """Those that do not work, are switched off or have gone silent, by kind and name, in words."""
    rows = Connection.objects.filter(account=account).select_related("off_by").order_by("kind", "name")
    return {(row.kind, row.name): Trouble(why) for row in rows if (why := why_out_of_order(row))}


def put_in(account: Account, kind: Kind, name: str, header: str, key: str, by: Person) -> None:
    """The key that it asks for, from now on, as that header; empty: it asks for none."""
    row, _ = Connection.objects.get_or_create(account=account, kind=kind, name=name)
    row.key_sealed, row.key_header, row.key_at = seal(key), header if key else "", clock.now() if key else None
    row.save(update_fields=["key_sealed", "key_header", "key_at"])
    said = f"put in, as {header}" if key else "taken away"
    audit.note(account, by, "connections", [audit.Noted(f"{label(kind, name)}, its key", "", said)])


def called_anew(account: Account, kind: Kind, old: str, new: str) -> None:
    Connection.objects.filter(account=account, kind=kind, name=new).delete()
    Connection.objects.filter(account=account, kind=kind, name=old).update(name=new)


def best(dids: Iterable[Did]) -> Did:
    """What several tries at once say of it: one that was answered shows that it works."""
    found = set(dids)
    return "works" if "works" in found else "nothing" if "nothing" in found else "refuses"
