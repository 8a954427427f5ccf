"""Writing down what decisions changed about contacts: the difference between what was known before and after.

The core's effects change facts; here the changed facts become rows, one statement for each sort of thing and all
contacts of a batch. A new effect that changes what a contact is needs nothing here. Deals and appointments are
written by their own areas (pipeline.facts, diary.facts). The caller holds the contacts' rows.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from bluffside.core.facts import Contact as ContactFacts
from bluffside.core.own_fields import OWN
from bluffside.server import sql
from bluffside.server.people import consents
from bluffside.server.people.services import give_tags, take_tags
from bluffside.server.people.values import plain_score, plain_value
from bluffside.server.practice.models import Account


@dataclass(frozen=True, slots=True)
class Changed:
    """One contact before and after."""

    id: int
    before: ContactFacts
    after: ContactFacts


def write_changes(account: Account, changed: Iterable[Changed]) -> None:
    real = [one for one in changed if one.before is not one.after]
    if not real:
        return
    _tags(account, real)
    _consents(account, real)
    _columns(real)


def _tags(account: Account, changed: Sequence[Changed]) -> None:
    give_tags(account, [(one.id, tag) for one in changed for tag in one.after.tags - one.before.tags])
    take_tags(account, [(one.id, tag) for one in changed for tag in one.before.tags - one.after.tags])


def _consents(account: Account, changed: Sequence[Changed]) -> None:
    said = {
        (one.id, consent.channel, consent.purpose): consent
        for one in changed
        if one.before.consents is not one.after.consents
        for consent in one.after.consents
        if consent not in one.before.consents
    }
    consents.write(
        account,
        [consents.Said(*key, one.state, one.at, one.how, one.wording, one.evidence) for key, one in said.items()],
    )


def _columns(changed: Sequence[Changed]) -> None:
    """What lies on the contact's own row."""
    values: list[tuple[Any, ...]] = []
    for one in changed:
        new, old = one.after, one.before
        if all(
            getattr(new, name) is getattr(old, name) for name in (*OWN, "fields", "lists", "channel_order", "score")
        ):
            continue
        filled = {name: plain_value(value) for name, value in new.fields.items() if value is not None}
        values.append(
            (
                one.id,
                *(getattr(new, name)[: one.longest] for name, one in OWN.items()),
                sql.to_json(filled),
                sql.to_json(sorted(new.lists)),
                sql.to_json(list(new.channel_order)),
                sql.to_json(plain_score(new.score)),
            )
        )
    if not values:
        return
    own = ", ".join(f"{name} = u.{name}" for name in OWN)
    # One statement for all contacts of a batch, each with values of its own (see workflows/applying_effects.py).
    sql.execute(
        f"""
        UPDATE people_contact AS c
           SET {own}, fields = u.fields::jsonb, score = u.score::jsonb,
               lists = ARRAY(SELECT jsonb_array_elements_text(u.lists::jsonb)),
               channel_order = ARRAY(SELECT jsonb_array_elements_text(u.channel_order::jsonb))
          FROM unnest(%s::bigint[], {", ".join(["%s::text[]"] * (len(OWN) + 4))})
               AS u (id, {", ".join(OWN)}, fields, lists, channel_order, score)
         WHERE c.id = u.id
        """,  # noqa: S608  # columns of ours
        [list(column) for column in zip(*values, strict=True)],
    )
