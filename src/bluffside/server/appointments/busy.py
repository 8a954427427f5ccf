"""When members are busy elsewhere, by calendars of theirs (iCalendar): a file that is read once, or an address that is read each hour.
A calendar that cannot be read says why, and what was read of it before stands."""

from datetime import timedelta
from urllib.parse import SplitResult, urlsplit

import httpcore
from django.db import transaction

from bluffside.core.appointments.calendar_text import NotACalendar, busy_times
from bluffside.core.appointments.free import merged
from bluffside.server import sql
from bluffside.server.appointments.models import Busy, BusyCalendar
from bluffside.server.hooks.following import follow
from bluffside.server.hooks.guard import NotAllowed
from bluffside.server.practice import audit, clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.sealing import CannotUnseal, seal, unseal
from bluffside.server.wake import wake

EVERY = timedelta(hours=1)
AHEAD = timedelta(days=400)
LARGEST = 2_000_000  # bytes of a calendar
MOST = 10  # calendars of one member
BATCH = 5


class CannotFollow(ValueError):
    """In words."""


@transaction.atomic
def follow_address(account: Account, member: Person, name: str, url: str, by: Person) -> BusyCalendar:
    """Has a calendar read each hour, from now on. Raises CannotFollow."""
    url = url.strip().replace("webcal://", "https://", 1)
    address = urlsplit(url)
    if address.scheme not in ("http", "https") or not address.hostname or len(url) > 2_000:
        raise CannotFollow("That is not an address on the web.")
    one = _new(account, member, name or address.hostname, by)
    one.url_sealed, one.shown, one.next_at = seal(url), address.hostname[:253], clock.now()
    one.save()
    wake("busy")
    return one


@transaction.atomic
def take_file(account: Account, member: Person, name: str, content: bytes, by: Person) -> BusyCalendar:
    """Reads a calendar once. Raises CannotFollow."""
    if len(content) > LARGEST:
        raise CannotFollow(f"That is more than {LARGEST // 1_000_000} MB.")
    one = _new(account, member, name, by)
    try:
        _keep(one, content)
    except NotACalendar as error:
        raise CannotFollow(f"“{name}” was not taken: {error}.") from None
    one.save()
    return one


@transaction.atomic
def drop(one: BusyCalendar, by: Person) -> None:
    audit.note(
        one.account,
        by,
        "appointments",
        [audit.Noted(f"{one.member.name}: the calendar “{one.name}”", "", "taken away")],
    )
    one.delete()


def busy_batch(account: Account) -> int:
    """Reads calendars that are due; answers how many. Each is put off first, so that one which a worker dies of comes again later."""
    now = clock.now()
    found = 0
    for one in BusyCalendar.objects.filter(account=account, next_at__lte=now).select_related("account")[:BATCH]:
        if BusyCalendar.objects.filter(pk=one.pk, next_at=one.next_at).update(next_at=now + EVERY):
            _read(one)
            found += 1
    return found


def _read(one: BusyCalendar) -> None:
    def headers(to: SplitResult, body: str) -> list[tuple[str, str]]:
        return [("Host", to.netloc.rpartition("@")[2]), ("User-Agent", "Bluffside"), ("Accept", "text/calendar")]

    fault = ""
    try:
        answer = follow("GET", unseal(one.url_sealed), "", headers, tuple(one.account.allowed_hosts), LARGEST + 1)
        if answer.status != 200:
            fault = f"answered with {answer.status}"
        elif len(answer.content) > LARGEST:
            fault = f"more than {LARGEST // 1_000_000} MB"
        else:
            with transaction.atomic():
                _keep(one, answer.content)
    except (NotACalendar, NotAllowed, CannotUnseal) as error:
        fault = str(error)
    except (httpcore.NetworkError, httpcore.TimeoutException, httpcore.ProtocolError) as error:
        fault = f"no answer: {error or type(error).__name__}"
    one.fault = fault[:300]
    BusyCalendar.objects.filter(pk=one.pk).update(fault=one.fault, read_at=one.read_at)


def _keep(one: BusyCalendar, content: bytes) -> None:
    """Puts what the calendar says in the place of what it said. Raises NotACalendar."""
    now = clock.now()
    spans = busy_times(content.decode("utf-8", "replace"), one.account.zone, now - timedelta(days=1), now + AHEAD)
    one.busy.all().delete()
    Busy.objects.bulk_create(
        Busy(account=one.account, member=one.member, calendar=one, start=span.start, end=span.end)
        for span in merged(spans)
    )
    one.read_at, one.fault = now, ""


def _new(account: Account, member: Person, name: str, by: Person) -> BusyCalendar:
    if BusyCalendar.objects.filter(account=account, member=member).count() >= MOST:
        raise CannotFollow(f"{member.name} has {MOST} calendars here already.")
    name = sql.plain(name).strip()[:120]
    audit.note(account, by, "appointments", [audit.Noted(f"{member.name}: the calendar “{name}”", "", "added")])
    return BusyCalendar.objects.create(account=account, member=member, name=name)
