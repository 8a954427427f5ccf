"""The lead score: what happens earns points by the account's rules (core.scoring)."""

import json
from collections.abc import Sequence
from functools import lru_cache

from bluffside.core.events import SUBJECTS
from bluffside.core.scoring.rules import ScoreRules
from bluffside.core.scoring.sheet import Score
from bluffside.server.events.stream import Happened, Recorded, listen, record
from bluffside.server.people.models import Contact
from bluffside.server.people.values import plain_score
from bluffside.server.practice.models import Account
from bluffside.server.workflows.facts import load_facts

# What may change who somebody is: points for that are looked at again. What comes by time alone is at the next of these.
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
    listen(account, kinds)


def earn(account: Account, events: Sequence[Recorded]) -> None:
    """Subscriber: points for what happened, and for who somebody is by now."""
    rules = rules_of(account)
    if rules is None:
        return
    # A message that a workflow sends is its own doing; a score that changes earns nothing.
    real = [
        event
        for event in events
        if event.contact_id
        and event.kind != "score.changed"
        and not (event.kind == "message.sent" and event.enrolment_id)
    ]
    ids = [event.contact_id for event in real if event.contact_id]
    if not ids:
        return
    list(Contact.objects.filter(id__any=set(ids)).order_by("id").select_for_update(no_key=True).values_list("id"))
    facts = load_facts(account, ids, rules.needs)
    changed: list[tuple[int, Score]] = []
    happened = []
    for event in real:
        known = facts.get(event.contact_id or 0)
        if known is None:
            continue
        score = known.contact.score
        earned = rules.after(score, event.as_core(), known)
        earned = rules.standing(known.with_contact(score=earned), event.at)
        if earned == score:
            continue
        changed.append((event.contact_id or 0, earned))
        old, new = score.at(event.at), earned.at(event.at)
        if old != new:
            data = {"old": old, "new": new, "made_of": plain_score(earned)}
            happened.append(Happened("score.changed", event.contact_id, data))
    if changed:
        scores = dict(changed)  # the last of each
        rows = [Contact(id=id, score=plain_score(score)) for id, score in scores.items()]
        Contact.objects.bulk_update(rows, ["score"], batch_size=1_000)
    record(account, happened)
