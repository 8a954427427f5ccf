r"""Making requests: leased like messages, signed, tried again, with their answers kept.

    queued --lease--> sending --below 300--> answered
       ^                |  \--refused, or too often--> failed
       |                |
       +---later--------+--no answer, 429, 5yz; a worker that died leaves its lease to run out

Signed (signing.py); the id is the same at every try, so a receiver can tell a request that comes twice. What somebody has put
in as the key of a connection goes along as a header, to that host alone. A host that lets nobody in by that key (401, 403) is
asked again for days: it is the key that is to be mended, and nobody is passed over meanwhile. A connection that is switched off
is not asked; what is to go there waits.
"""

import logging
from collections import defaultdict
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from typing import NamedTuple
from urllib.parse import SplitResult, urlencode, urlsplit

import httpcore
from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from bluffside.core.web_addresses import host_of
from bluffside.server import leasing, sql
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.hooks import signing
from bluffside.server.hooks.following import follow
from bluffside.server.hooks.guard import NotAllowed, stand_ins
from bluffside.server.hooks.models import Call
from bluffside.server.practice import clock, connections
from bluffside.server.practice.models import Account, Connection
from bluffside.server.practice.sealing import CannotUnseal, unseal
from bluffside.server.wake import wake

BATCH = 8  # made side by side
LEASE = timedelta(minutes=5)
MOST_ATTEMPTS = 8
KEPT = 2_000  # letters of an answer
OWN_HEADERS = ("host", "content-length", "transfer-encoding", "connection")
TEST = "test:"  # how the key of a request begins that only tries the connection
KINDS: tuple[connections.Kind, ...] = ("host", "service")
KEPT_OUT = (401, 403)  # RFC 9110, 15.5.2 and 15.5.4
KEY_MENDED_WITHIN = timedelta(days=3)  # for as long requests wait for a key that is taken
State = Call.State
log = logging.getLogger("bluffside.hooks")


class NewCall(NamedTuple):
    """A request to be made; `query` and `headers` as pairs."""

    contact_id: int | None
    enrolment_id: int | None
    key: str
    method: str
    url: str
    body: str
    query: object = ()
    headers: object = ()
    service: str = ""


class Header(NamedTuple):
    name: str
    value: str


class Asking(NamedTuple):
    """What requests of an account are made with: no thread that makes one asks a database."""

    signing_key: str
    allowed: tuple[str, ...]
    keys: dict[str, Header]


def queue(account: Account, calls: Sequence[NewCall]) -> None:
    """Puts requests on their way, in the transaction at hand. A key that is there already is left as it is."""
    now = clock.now()
    sql.insert(
        Call,
        ("account_id", "contact_id", "enrolment_id", "key", "method", "url", "query", "headers", "body", "next_try_at",
         "made_at", "state", "connection"),
        [
            (account.id, one.contact_id, one.enrolment_id, one.key, one.method, one.url[:2_000], sql.to_json(one.query),
             sql.to_json(one.headers), one.body, now, now, State.QUEUED, where(one.url, one.service))
            for one in calls
        ],
        on_conflict="ON CONFLICT DO NOTHING",
    )  # fmt: skip
    if calls:
        wake("calls")


def call_batch(account: Account) -> int:
    """Leases due requests, makes them, writes down what came of it; answers how many."""
    calls = _lease(account)
    if not calls:
        return 0
    asking = Asking(signing.key_of(account), tuple(account.allowed_hosts), _keys(account, calls))
    with ThreadPoolExecutor(BATCH, thread_name_prefix="request") as pool:
        outcomes = pool.map(lambda one: _outcome(account, one, asking), calls)
        dids: list[connections.Did] = []
        for call, outcome in zip(calls, outcomes, strict=True):
            _note(account, call, outcome)
            _write(account, call)
            dids.append(_did(outcome))
    _tell(account, calls, dids)
    return len(calls)


def where(url: str, service: str = "") -> str:
    """The connection that a request goes by: its kind and name in one."""
    return f"service:{service}" if service else f"host:{host_of(url)[:247]}"


def _keys(account: Account, calls: Sequence[Call]) -> dict[str, Header]:
    """What goes along with requests, by connection, where somebody has put a key in."""
    rows = Connection.objects.filter(account=account, kind__in=("host", "service")).exclude(key_sealed="")
    named = {one.connection for one in calls}
    return {at: _header(row) for row in rows if (at := f"{row.kind}:{row.name}") in named}


def _header(row: Connection) -> Header:
    try:
        return Header(row.key_header, unseal(row.key_sealed))
    except CannotUnseal:
        return Header("", "")


def _tell(account: Account, calls: Sequence[Call], dids: Sequence[connections.Did]) -> None:
    """What came of them says of their connections."""
    by_connection: dict[str, list[tuple[connections.Did, Call]]] = defaultdict(list)
    for one, did in zip(calls, dids, strict=True):
        by_connection[one.connection].append((did, one))
    for named, some in by_connection.items():
        kind, _, name = named.partition(":")
        if not name:  # an address that is none
            continue
        did = connections.best(one for one, _ in some)
        shown = next(call for one, call in some if one == did)
        said = shown.reason or f"answered with {shown.status}"
        if did != "works" and shown.status and shown.answer.strip():
            said = f"{shown.status}: {' '.join(shown.answer.split())}"
        connections.heard(account, "service" if kind == "service" else "host", name, did, said)
    tests = [one.id for one in calls if one.key.startswith(TEST)]
    if tests:
        Call.objects.filter(id__in=tests).delete()
        tested = Connection.objects.filter(account=account, test__in=[one.key for one in calls])
        tested.update(test="", test_at=None)


def _did(outcome: tuple[int, str] | Exception) -> connections.Did:
    """A status that is the request's own fault shows that the connection works."""
    match outcome:
        case NotAllowed():
            return "refuses"
        case (status, _):
            return "refuses" if status in KEPT_OUT else "nothing" if status >= 500 or status == 429 else "works"
        case _:
            return "nothing"


@transaction.atomic
def _lease(account: Account) -> list[Call]:
    off = [f"{kind}:{name}" for kind in KINDS for name in connections.switched_off(account, kind)]
    calls = list(leasing.due(Call.objects.exclude(connection__in=off), account)[:BATCH])
    leasing.take(calls, LEASE)
    for call in calls:
        call.status, call.answer = None, ""  # of this try
    return calls


def _outcome(account: Account, call: Call, asking: "Asking") -> tuple[int, str] | Exception:
    """What comes of a request. It asks no database, so that any thread may make it."""
    try:
        return _request(call, asking)
    except Exception as error:  # noqa: BLE001  # whatever befalls one request is its own
        return error


def _note(account: Account, call: Call, outcome: tuple[int, str] | Exception) -> None:
    match outcome:
        case NotAllowed() as error:
            _settle(call, State.FAILED, str(error))
        case httpcore.NetworkError() | httpcore.TimeoutException() | httpcore.ProtocolError() as error:
            _try_again(call, f"no answer: {error or type(error).__name__}")
        case Exception() as error:
            log.error("a request could not be made", exc_info=error, extra={"account": account.slug})
            _settle(call, State.FAILED, f"{type(error).__name__}: {error}")
        case (status, answer):
            call.status, call.answer = status, answer
            if status < 300:
                _settle(call, State.ANSWERED, "")
            elif status in (408, 425, 429) or status >= 500:
                _try_again(call, f"answered with {status}")
            elif status in KEPT_OUT and Connection.objects.filter(_of(account, call)).exclude(key_sealed="").exists():
                _try_again(call, f"answered with {status}: it does not take the key", KEY_MENDED_WITHIN)
            else:
                _settle(call, State.FAILED, f"answered with {status}")


def _of(account: Account, call: Call) -> Q:
    kind, _, name = call.connection.partition(":")
    return Q(account=account, kind=kind, name=name)


def _request(call: Call, asking: "Asking") -> tuple[int, str]:
    """Status and beginning of the answer."""
    url = _with_query(call.url, call.query)
    first = urlsplit(url).netloc

    def headers(to: SplitResult, body: str) -> list[tuple[str, str]]:
        return _headers(asking, call, to, body, own=to.netloc == first)

    answer = follow(call.method, url, call.body, headers, asking.allowed, 4 * KEPT)
    return answer.status, answer.content.decode("utf-8", "replace").replace("\0", "")[:KEPT]


def _with_query(url: str, query: Sequence[Sequence[str]]) -> str:
    pairs = urlencode([(name, value) for name, value in query])
    return f"{url}{'&' if urlsplit(url).query else '?'}{pairs}" if pairs else url


def _headers(asking: "Asking", call: Call, to: SplitResult, body: str, own: bool) -> list[tuple[str, str]]:
    """With the headers of the line, which may hold a password, and the key of the connection only for the host that it names
    (`own`). Raises NotAllowed where a key would go in clear."""
    now = int(timezone.now().timestamp())
    written = list(call.headers) if own else []
    if own and (key := asking.keys.get(call.connection)):
        if not key.name:
            raise NotAllowed("its key cannot be opened here: it is to be put in again")
        if to.scheme != "https" and to.hostname not in (*stand_ins(), *asking.allowed):
            raise NotAllowed("its key does not go in clear: the address is not https")
        written = [(name, value) for name, value in written if name.lower() != key.name.lower()] + [tuple(key)]
    clean = [(name, value.replace("\r", " ").replace("\n", " ")) for name, value in written]
    sent = [(name, value) for name, value in clean if name.lower() not in OWN_HEADERS and name.isascii()]
    named = {name.lower() for name, _ in sent}
    if body and "content-type" not in named:
        sent.append(("Content-Type", "application/json" if body.lstrip()[:1] in "{[" else "text/plain; charset=utf-8"))
    return [
        ("Host", to.netloc.rpartition("@")[2]),
        ("User-Agent", "Bluffside"),
        ("Content-Length", str(len(body.encode()))),
        ("webhook-id", call.key),
        ("webhook-timestamp", str(now)),
        ("webhook-signature", signing.signature(asking.signing_key, call.key, now, body)),
        *[(name, value.encode("ascii", "ignore").decode()) for name, value in sent],
    ]


def _settle(call: Call, state: State, reason: str) -> None:
    call.state, call.reason, call.settled_at, call.leased_until = state, reason[:300], clock.now(), None


def _try_again(call: Call, reason: str, for_long: timedelta = timedelta()) -> None:
    if call.attempts >= MOST_ATTEMPTS and clock.now() - call.made_at >= for_long:
        _settle(call, State.FAILED, f"not taken after {call.attempts} tries: {reason}")
        return
    call.state, call.reason, call.leased_until = State.QUEUED, reason[:300], None
    call.next_try_at = leasing.later(clock.now(), call.attempts)


@transaction.atomic
def _write(account: Account, call: Call) -> None:
    """Only while the lease is ours."""
    ours = Call.objects.filter(id=call.id, state=State.SENDING, attempts=call.attempts).update(
        state=call.state,
        reason=call.reason,
        status=call.status,
        answer=call.answer,
        next_try_at=call.next_try_at,
        settled_at=call.settled_at,
        leased_until=None,
    )
    if ours and call.state != State.QUEUED:
        data = {"url": call.url[:200], "status": call.status, "reason": call.reason}
        cause = Cause(enrolment_id=call.enrolment_id)
        record(account, [Happened(f"webhook.{call.state}", call.contact_id, data, cause)])


@transaction.atomic
def retry(call: Call) -> None:
    """A request that failed is made once more, with its tries counted anew."""
    Call.objects.filter(id=call.id, state=State.FAILED).update(
        state=State.QUEUED, attempts=0, next_try_at=clock.now(), settled_at=None
    )
    wake("calls")
