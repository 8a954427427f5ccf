"""What rules had brought people by certain days, and what became of them after: what points are learned from.

On each landmark day, a horizon apart and the last of them a horizon ago, whoever was known and had not reached the outcome yet is a
row. What a rule of deeds had brought is played again from what had happened by then. What somebody was then is only known by what the
score wrote down of itself; what is true of them today says nothing of then, and is not looked at.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

from bluffside.core.events import SUBJECTS, Event
from bluffside.core.facts import Facts
from bluffside.core.scoring.rules import ForDoing, Rule, ScoreRules
from bluffside.core.scoring.sheet import Score
from bluffside.core.statistics.learned_points import Learned, Row, TooFew, learn
from bluffside.server.events.stream import history
from bluffside.server.people.models import Contact
from bluffside.server.people.values import read_score
from bluffside.server.practice.models import Account
from bluffside.server.scores.counting import some_of
from bluffside.server.scores.recounting import goes_by_barred

Outcome = Literal["won", "booked"]
KINDS: dict[Outcome, str] = {"won": "deal.won", "booked": "appointment.booked"}
LANDMARKS = 6
ANYBODY = Facts()  # the rules that are played again ask nothing of whoever it is


@dataclass(frozen=True, slots=True)
class Lesson:
    """`refused`: by rule, why it is not learned from."""

    found: Learned | TooFew
    names: list[str]
    by_hand: list[float]
    refused: dict[str, str]


def lesson(account: Account, rules: ScoreRules, outcome: Outcome, horizon: int, now: datetime) -> Lesson:
    """`rules`: of one score. `horizon` in days."""
    refused = {
        one.name: f"it goes by what is barred: {said}" for one in rules.all if (said := goes_by_barred(one, rules))
    }
    doing = list[ForDoing]()
    for rule in (one for one in rules.doing if one.name not in refused):
        if _hears(rule, KINDS[outcome], now):
            refused[rule.name] = "it is the outcome itself"
        elif rule.on.when:
            refused[rule.name] = "it asks who somebody is, and who they were then is not known"
        else:
            doing.append(rule)
    being = tuple(one for one in rules.being if one.name not in refused)
    used: list[Rule] = [*being, *doing]
    names, by_hand = [rule.name for rule in used], [rule.points for rule in used]
    rows = _rows(account, rules.model_copy(update={"being": being}), doing, outcome, timedelta(days=horizon), now)
    return Lesson(learn(names, by_hand, rows), names, by_hand, refused)


def _hears(rule: ForDoing, kind: str, now: datetime) -> bool:
    """Whether a rule gives something for what is to be foretold. One trigger may listen to several kinds of event for one of them."""
    about = [Event(kind, now, {SUBJECTS[kind]: subject}) for subject in rule.on.subjects() or ("",)]
    return any(rule.on.fits(one) for one in about)


def _rows(
    account: Account, rules: ScoreRules, doing: Sequence[ForDoing], outcome: Outcome, horizon: timedelta, now: datetime
) -> list[Row]:
    days = [now - horizon * (number + 1) for number in range(LANDMARKS)]
    kinds = {kind for rule in doing for kind in rule.on.listens_to} | {KINDS[outcome], "score.changed"}
    people = Contact.objects.filter(account=account).count()
    rows = []
    for ids in some_of(account, people):
        added = dict(Contact.objects.filter(id__in=ids).values_list("id", "added_at"))
        past = history(account, ids, sorted(kinds))
        for id in ids:
            events = past.get(id, ())
            reached = [one.at for one in events if one.kind == KINDS[outcome]]
            for day in days:
                if added[id] > day or any(at <= day for at in reached):
                    continue
                brought = _brought(rules, doing, [one for one in events if one.at <= day], day)
                rows.append(Row(id, brought, any(at <= day + horizon for at in reached)))
    return rows


def _brought(rules: ScoreRules, doing: Sequence[ForDoing], events: Sequence[Event], day: datetime) -> tuple[float, ...]:
    written = next((one for one in reversed(events) if one.kind == "score.changed" and "made_of" in one.data), None)
    was = {one.rule: one.at(day) for one in read_score(written.data["made_of"]).earned} if written else {}
    score, deeds = Score(), rules.model_copy(update={"being": (), "doing": tuple(doing)})
    for event in events:
        score = deeds.after(score, event, ANYBODY)
    did = {one.rule: one.at(day) for one in score.earned}
    return (*(was.get(rule.name, 0.0) for rule in rules.being), *(did.get(rule.name, 0.0) for rule in doing))
