"""What rules would give people, or give them: by all that happened to each, counted anew; and what changes by that."""

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from math import floor

from bluffside.core.facts import Facts
from bluffside.core.scoring.rules import ScoreRules
from bluffside.core.scoring.sheet import Score
from bluffside.core.triggers.score_crossed import ScoreCrossed
from bluffside.server import sql
from bluffside.server.events.stream import history
from bluffside.server.people.models import Contact
from bluffside.server.practice.models import Account
from bluffside.server.scores.models import ScoreVersion
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.models import Workflow
from bluffside.server.workflows.scoring import rules_of
from bluffside.server.workflows.versions import published_document

BATCH = 1_000
LOOKED_AT = 20_000  # people; of more, so many spread over all of them
STEP = 5  # points a bar
MOST_SHOWN = 200


def counted_anew(
    account: Account, ids: Sequence[int], rules: ScoreRules, now: datetime
) -> dict[int, tuple[Facts, Score]]:
    """By contact, the facts (with the scores that stand) and those that the rules give by all that happened, and what lines of
    workflows have brought."""
    facts = load_facts(account, ids, rules.needs, now)
    kinds = sorted({kind for rule in rules.doing for kind in rule.on.listens_to})
    past = history(account, list(facts), kinds) if kinds else {}
    by_rules = _names_of_rules(account) | {(one.score, one.name) for one in rules.all}

    def by_lines(known: Facts) -> Facts:
        held = (one for one in known.contact.score.earned if (one.score, one.rule) not in by_rules)
        return known.with_contact(score=Score(tuple(held)))

    return {id: (known, rules.of_history(by_lines(known), past.get(id, ()), now)) for id, known in facts.items()}


def _names_of_rules(account: Account) -> set[tuple[str, str]]:
    """Of all rules that count or ever counted, with their score."""
    said = ScoreVersion.objects.filter(account=account).values_list("rules", flat=True)
    all = [*map(ScoreRules.model_validate, said), rules_of(account) or ScoreRules()]
    return {(one.score, one.name) for rules in all for one in rules.all}


@dataclass(slots=True)
class Person:
    id: int
    name: str
    before: float
    after: float
    mark_before: str
    mark_after: str


@dataclass(slots=True)
class Comparison:
    """`looked_at` of `people`; bars by their lower end, before and after; by rule, to how many it gives something; `starts`: by
    workflow, who would come into it."""

    people: int
    looked_at: int = 0
    moves: dict[tuple[str, str], int] = field(default_factory=lambda: defaultdict(int))
    before: Counter[int] = field(default_factory=Counter)
    after: Counter[int] = field(default_factory=Counter)
    rules: Counter[str] = field(default_factory=Counter)
    who: list[Person] = field(default_factory=list)
    starts: dict[int, int] = field(default_factory=lambda: defaultdict(int))


def crossing(account: Account) -> list[tuple[Workflow, ScoreCrossed]]:
    """The starts of open workflows that go by a mark."""
    rows = Workflow.objects.filter(account=account, published__isnull=False, open=True).order_by("name")
    return [
        (one, start)
        for one in rows
        for start in published_document(one.published_id or 0).starts
        if isinstance(start, ScoreCrossed)
    ]


def compare(account: Account, standing: ScoreRules, rules: ScoreRules, of: str, now: datetime) -> Comparison:
    """What would change in a score if `rules` counted instead of `standing`, and what would start by that in any."""
    people = Contact.objects.filter(account=account).count()
    found, starts = Comparison(people), crossing(account)
    for ids in some_of(account, people):
        for id, (known, score) in counted_anew(account, ids, rules, now).items():
            standing_score = known.contact.score
            old, new = standing_score.at(now, of), score.at(now, of)
            had, has = bool(standing_score.of(of)), bool(score.of(of))
            found.looked_at += 1
            if had:
                found.before[_bar(old)] += 1
            if has:
                found.after[_bar(new)] += 1
            found.rules.update(one.rule for one in score.of(of) if one.at(now))
            marks = standing.mark(old, of) if had else "", rules.mark(new, of) if has else ""
            found.moves[marks] += had or has
            if marks[0] != marks[1]:
                found.who.append(Person(id, known.contact.name, old, new, *marks))
            for workflow, start in starts:
                crossed = start.crossed(standing_score.at(now, start.score), score.at(now, start.score))
                found.starts[workflow.pk] += crossed
    found.who.sort(key=lambda one: -abs(one.after - one.before))
    del found.who[MOST_SHOWN:]
    return found


def _bar(points: float) -> int:
    return floor(points / STEP) * STEP


def some_of(account: Account, people: int) -> Iterator[list[int]]:
    """Everybody, or people spread evenly over all of them."""
    ids: Iterable[int] = Contact.objects.filter(account=account).order_by("id").values_list("id", flat=True)
    every = max(1, -(-people // LOOKED_AT))
    for some in sql.chunks(list(ids)[::every], BATCH):
        yield list(some)
