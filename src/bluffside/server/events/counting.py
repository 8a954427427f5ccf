"""Notes of what the sums of the results do not hold yet: messages, contacts, enrolments and tasks to which something has happened.

A note is written with the change, by whoever makes it, and read by the worker that counts (results/counting.py). It names rows, not
numbers: a day is counted anew from the rows themselves, so a note too many changes nothing, and none is needed twice.
"""

from collections.abc import Collection, Iterable, Sequence
from typing import Any, Protocol

from bluffside.server.events.models import Uncounted
from bluffside.server.practice import clock
from bluffside.server.wake import wake

BY_MESSAGE = frozenset(
    {"message.delivered", "message.bounced", "message.failed", "message.complained", "message.uncertain", "link.clicked"}
)  # fmt: skip
BY_CONTACT = frozenset({"reply.received", "appointment.booked", "consent.withdrawn"})
BY_TASK = frozenset({"task.made", "task.tried", "task.done", "task.called_off"})


class _Happened(Protocol):
    @property
    def kind(self) -> str: ...
    @property
    def contact_id(self) -> int | None: ...
    @property
    def data(self) -> dict[str, Any]: ...


def touch(
    account_id: int,
    messages: Collection[int] = (),
    contacts: Collection[int] = (),
    enrolments: Collection[int] = (),
    tasks: Collection[int] = (),
) -> None:
    """Notes rows to which something happens now."""
    if messages or contacts or enrolments or tasks:
        Uncounted.objects.create(
            account_id=account_id,
            at=clock.now(),
            messages=sorted(set(messages)),
            contacts=sorted(set(contacts)),
            enrolments=sorted(set(enrolments)),
            tasks=sorted(set(tasks)),
        )
        wake("count")


def touched_by(account_id: int, events: Sequence[_Happened]) -> None:
    """Notes what events have touched, in the transaction that records them."""
    touch(
        account_id,
        [one.data["message_id"] for one in events if one.kind in BY_MESSAGE and one.data.get("message_id")],
        _contacts(one for one in events if one.kind in BY_CONTACT),
        tasks=[one.data["task"] for one in events if one.kind in BY_TASK],
    )


def _contacts(events: Iterable[_Happened]) -> list[int]:
    return [one.contact_id for one in events if one.contact_id]
