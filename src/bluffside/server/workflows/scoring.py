"""The lead score and further ones: what happens earns points by the account's rules (core.scoring)."""

import json
from collections.abc import Iterable, Sequence
from datetime import datetime
from functools import lru_cache
from typing import NamedTuple

from django.db import transaction

from bluffside.core.events import SUBJECTS
from bluffside.core.facts import Facts
from bluffside.core.scoring.rules import ScoreRules
from bluffside.core.scoring.sheet import Score, changes
from bluffside.server.events.stream import Cause, Happened, Recorded, listen, record
from bluffside.server.people.models import Contact
from bluffside.server.people.values import plain_score
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.models import ScoreTurn

BATCH = 500

# What may change who somebody is: points for that are looked at again.
WHO_THEY_ARE = ("tag.", "field.", "list.", "consent.", "deal.", "stage.", "appointment.", "contact.", "quiet.")


@lru_cache(maxsize=1_000)
def _rules(text: str) -> ScoreRules:
    return ScoreRules.model_validate_json(text)


def rules_of(account: Account) -> ScoreRules | None:
    return _rules(json.dumps(account.score_rules, sort_keys=True)) if account.score_rules else None


def set_rules(account: Account, rules: ScoreRules) -> None:
    """From now on, points are earned by these rules. What was earned stays."""
    account.score_rules = rules.model_dump(mode="json")
    account.save(update_fields=["score_rules"])
    kinds = {kind for rule in rules.doing for kind in rule.on.listens_to}
    if rules.being:
        kinds |= {kind for kind in SUBJECTS if kind.startswith(WHO_THEY_ARE)}
        kinds |= frozenset().union(*(rule.when.looks_back_on() for rule in rules.being)) - {"score.changed"}
    listen(account, kinds)


def earn(account: Account, events: Sequence[Recorded]) -> None:
    """Subscriber: points for what happened, and for who somebody is by now."""
    rules = rules_of(account)
    if rules is None:
        return
    real = [event for event in events if event.contact_id and event.kind != "score.changed"]  # it earns nothing
    ids = [event.contact_id for event in real if event.contact_id]
    if not ids:
        return
    list(Contact.objects.filter(id__any=set(ids)).order_by("id").select_for_update(no_key=True).values_list("id"))
    facts = load_facts(account, ids, rules.needs)
    found = []
    for event in real:
        if known := facts.get(event.contact_id or 0):
            earned = rules.after(known.contact.score, event.as_core(), known)
            found.append(Earning(known, rules.standing(known.with_contact(score=earned), event.at), event.at))
    keep(account, rules, found)


@transaction.atomic
def stand_batch(account: Account) -> int:
    """Looks at those whose points for who they are may be others by now, by time alone; answers how many."""
    now, rules = clock.now(), rules_of(account)
    due = ScoreTurn.objects.filter(account=account, at__lte=now).order_by("at", "contact_id")
    ids = list(due.select_for_update(of=("self",), skip_locked=True).values_list("contact_id", flat=True)[:BATCH])
    if not ids:
        return 0
    if rules is None or not rules.goes_by_time:  # by rules that count no more
        ScoreTurn.objects.filter(account=account).delete()
        return len(ids)
    list(Contact.objects.filter(id__any=set(ids)).order_by("id").select_for_update(no_key=True).values_list("id"))
    facts = load_facts(account, ids, rules.needs, now)
    keep(account, rules, [Earning(known, rules.standing(known, now), now) for known in facts.values()])
    return len(ids)


def look_ahead(account: Account, rules: ScoreRules, facts: Iterable[Facts], now: datetime) -> None:
    """Keeps when somebody's points for who they are may next be others though nothing happens."""
    if not rules.goes_by_time:
        return
    turns = {int(known.contact.id): rules.turns_at(known, now) for known in facts}
    kept = dict(ScoreTurn.objects.filter(contact__in=turns).values_list("contact_id", "at"))
    over = [id for id in kept if turns[id] is None]
    ScoreTurn.objects.filter(contact__in=over).delete()
    rows = [ScoreTurn(account=account, contact_id=id, at=at) for id, at in turns.items() if at and kept.get(id) != at]
    ScoreTurn.objects.bulk_create(
        rows, update_conflicts=True, unique_fields=["contact"], update_fields=["at"], batch_size=1_000
    )


class Earning(NamedTuple):
    """`score`: what somebody's scores are from an instant on."""

    known: Facts
    score: Score
    at: datetime


def keep(
    account: Account,
    rules: ScoreRules,
    found: Sequence[Earning],
    by: Cause | None = None,
    starts: Sequence[int] | None = None,
) -> None:
    """Writes scores that are others now, tells of each, and looks ahead. `starts`: the only workflows that may start by that."""
    changed = [one for one in found if one.score != one.known.contact.score]
    rows = [Contact(id=int(one.known.contact.id), score=plain_score(one.score)) for one in changed]
    Contact.objects.bulk_update(rows, ["score"], batch_size=1_000)
    only = {} if starts is None else {"starts": list(starts)}
    record(
        account,
        [
            Happened(
                event.kind,
                int(one.known.contact.id),
                {**event.data, "made_of": plain_score(one.score), **only},
                by or Cause(),
            )
            for one in changed
            for event in changes(one.known.contact.score, one.score, one.at)
        ],
    )
    for at in {one.at for one in found}:
        look_ahead(account, rules, [one.known.with_contact(score=one.score) for one in found if one.at == at], at)
