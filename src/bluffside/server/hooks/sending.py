r"""Making requests: leased like messages, signed, tried again, with their answers kept.

    queued --lease--> sending --below 300--> answered
       ^                |  \--refused, or too often--> failed
       |                |
       +---later--------+--no answer, 429, 5yz; a worker that died leaves its lease to run out

Signed by the Standard Webhooks specification (https://www.standardwebhooks.com, from memory): webhook-id,
webhook-timestamp and webhook-signature "v1," + base64 of HMAC-SHA256 over "id.timestamp.body". The id is the same at
every try, so a receiver can tell a request that comes twice.
"""

import base64
import hmac
import logging
import secrets
import time
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from typing import NamedTuple
from urllib.parse import SplitResult, urlencode, urljoin, urlsplit

import httpcore
from django.db import transaction
from django.utils import timezone

from bluffside.server import leasing, sql
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.hooks.guard import PORTS, STAND_IN_PATHS, Guard, NotAllowed, stand_ins
from bluffside.server.hooks.models import Call
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.wake import wake

BATCH = 8  # made side by side
LEASE = timedelta(minutes=5)
PATIENCE = 15.0  # seconds to connect, and between two parts of an answer
DEADLINE = 20.0  # seconds for all of a request, its redirects and its answer
MOST_ATTEMPTS = 8
MOST_REDIRECTS = 3
KEPT = 2_000  # letters of an answer
OWN_HEADERS = ("host", "content-length", "transfer-encoding", "connection")
State = Call.State
log = logging.getLogger("bluffside.hooks")


class NewCall(NamedTuple):
    """A request to be made; `query` and `headers` as pairs."""

    contact_id: int
    enrolment_id: int | None
    key: str
    method: str
    url: str
    body: str
    query: object = ()
    headers: object = ()


def queue(account: Account, calls: Sequence[NewCall]) -> None:
    """Puts requests on their way, in the transaction at hand. A key that is there already is left as it is."""
    now = clock.now()
    sql.insert(
        Call,
        ("account_id", "contact_id", "enrolment_id", "key", "method", "url", "query", "headers", "body", "next_try_at",
         "made_at", "state"),
        [
            (account.id, one.contact_id, one.enrolment_id, one.key, one.method, one.url[:2_000], sql.to_json(one.query),
             sql.to_json(one.headers), one.body, now, now, State.QUEUED)
            for one in calls
        ],
        on_conflict="ON CONFLICT DO NOTHING",
    )  # fmt: skip
    if calls:
        wake("calls")


def new_secret() -> str:
    return f"whsec_{base64.b64encode(secrets.token_bytes(24)).decode()}"


def signature(secret: str, id: str, timestamp: int, body: str) -> str:
    key = base64.b64decode(secret.removeprefix("whsec_"))
    digest = hmac.digest(key, f"{id}.{timestamp}.{body}".encode(), "sha256")
    return f"v1,{base64.b64encode(digest).decode()}"


def call_batch(account: Account) -> int:
    """Leases due requests, makes them, writes down what came of it; answers how many."""
    calls = _lease(account)
    if not calls:
        return 0
    with ThreadPoolExecutor(BATCH, thread_name_prefix="request") as pool:
        outcomes = pool.map(lambda one: _outcome(account, one), calls)
        for call, outcome in zip(calls, outcomes, strict=True):
            _note(account, call, outcome)
            _write(account, call)
    return len(calls)


@transaction.atomic
def _lease(account: Account) -> list[Call]:
    calls = list(leasing.due(Call.objects.all(), account)[:BATCH])
    leasing.take(calls, LEASE)
    if calls and not account.webhook_secret:
        account.webhook_secret = new_secret()
        Account.objects.filter(id=account.id, webhook_secret="").update(webhook_secret=account.webhook_secret)
        account.refresh_from_db(fields=["webhook_secret"])
    return calls


def _outcome(account: Account, call: Call) -> tuple[int, str] | Exception:
    """What comes of a request. It asks no database, so that any thread may make it."""
    try:
        return _request(account, call)
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
            else:
                _settle(call, State.FAILED, f"answered with {status}")


def _request(account: Account, call: Call) -> tuple[int, str]:
    """Status and beginning of the answer, after redirects, each of which is looked at like the first address."""
    url, method, body = _with_query(call.url, call.query), call.method, call.body
    allowed = account.allowed_hosts
    first = urlsplit(url).netloc
    guard = Guard(allowed, time.monotonic() + DEADLINE)
    with httpcore.ConnectionPool(network_backend=guard, retries=0) as pool:
        for _ in range(MOST_REDIRECTS + 1):
            address = urlsplit(url)
            if address.scheme not in PORTS or not address.hostname:
                raise NotAllowed(f"{url[:200]} is not an address on the web")
            if address.hostname in stand_ins() and not address.path.startswith(STAND_IN_PATHS):
                raise NotAllowed(f"the stand-in serves no {address.path[:100] or '/'}")
            with pool.stream(
                method,
                url,
                headers=_headers(account, call, address, body, own=address.netloc == first),
                content=body.encode(),
                extensions={"timeout": {"connect": PATIENCE, "read": PATIENCE, "write": PATIENCE, "pool": PATIENCE}},
            ) as answer:
                where = next((value for name, value in answer.headers if name.lower() == b"location"), b"").decode(
                    "latin-1"
                )
                if answer.status not in (301, 302, 303, 307, 308) or not where:
                    return answer.status, _beginning(answer)
            url = urljoin(url, where)
            if answer.status in (301, 302, 303) and method != "GET":
                method, body = "GET", ""  # as browsers do (RFC 9110, 15.4.2 to 15.4.4)
    raise NotAllowed(f"it was sent on more than {MOST_REDIRECTS} times")


def _with_query(url: str, query: Sequence[Sequence[str]]) -> str:
    pairs = urlencode([(name, value) for name, value in query])
    return f"{url}{'&' if urlsplit(url).query else '?'}{pairs}" if pairs else url


def _headers(account: Account, call: Call, to: SplitResult, body: str, own: bool) -> list[tuple[str, str]]:
    """With the headers of the line, which may hold a password, only for the host that it names (`own`)."""
    now = int(timezone.now().timestamp())
    written = call.headers if own else []
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
        ("webhook-signature", signature(account.webhook_secret, call.key, now, body)),
        *[(name, value.encode("ascii", "ignore").decode()) for name, value in sent],
    ]


def _beginning(answer: httpcore.Response) -> str:
    """The first letters of an answer, however long it is."""
    kept = b""
    for part in answer.iter_stream():
        kept += part
        if len(kept) > 4 * KEPT:
            break
    return kept.decode("utf-8", "replace").replace("\0", "")[:KEPT]


def _settle(call: Call, state: State, reason: str) -> None:
    call.state, call.reason, call.settled_at, call.leased_until = state, reason[:300], clock.now(), None


def _try_again(call: Call, reason: str) -> None:
    if call.attempts >= MOST_ATTEMPTS:
        _settle(call, State.FAILED, f"not taken after {MOST_ATTEMPTS} tries: {reason}")
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
