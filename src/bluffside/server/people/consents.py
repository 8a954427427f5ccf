"""Writing what people said of channels: one row a contact, channel and purpose, the last word counts."""

from collections.abc import Iterable
from datetime import datetime
from typing import NamedTuple

from bluffside.server import sql
from bluffside.server.people.models import Consent
from bluffside.server.practice.models import Account

_AS_SAID = "state = excluded.state, at = excluded.at, how = excluded.how, wording = excluded.wording, evidence = excluded.evidence"


class Said(NamedTuple):
    """Its fields are columns."""

    contact_id: int
    channel: str
    purpose: str
    state: str
    at: datetime | None
    how: str = ""
    wording: str = ""
    evidence: str = ""


def write(account: Account, said: Iterable[Said], but_not_over: str = "") -> list[int]:
    """In the transaction at hand; a state that is not written over (`but_not_over`) stays. Answers whose words were written,
    once for each."""
    unless = "" if not but_not_over else f"WHERE people_consent.state <> '{Consent.State(but_not_over).value}'"
    rows = [one._replace(how=one.how[:120], wording=one.wording[:500], evidence=one.evidence[:500]) for one in said]
    written = sql.insert(
        Consent,
        ("account_id", *Said._fields),
        [(account.id, *one) for one in rows],
        on_conflict=f"ON CONFLICT (contact_id, channel, purpose) DO UPDATE SET {_AS_SAID} {unless}",
        returning="contact_id",
    )
    return list(dict.fromkeys(row[0] for row in written))
