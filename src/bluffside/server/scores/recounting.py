"""Rules kept while they are written; let count: from then on what happens earns by them, and everybody is counted anew by a worker, some
at a time, while the engine goes on. It can be stopped, and goes on where it was after a crash."""

from collections.abc import Sequence
from typing import NamedTuple

from django.db import transaction

from bluffside.core.own_fields import OWN
from bluffside.core.scoring.rules import ForBeing, ForDoing, Rule, ScoreRules, goes_by_the_clock
from bluffside.core.words import several
from bluffside.core.workflow.references import fields_in
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.people import usages
from bluffside.server.people.models import Contact
from bluffside.server.practice import audit, clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.scores.counting import counted_anew
from bluffside.server.scores.models import ScoreDraft, ScoreRecount, ScoreVersion
from bluffside.server.wake import wake
from bluffside.server.workflows.scoring import Earning, keep, rules_of, set_rules

BATCH = 500
MOST_RULES = 60
MOST_MARKS = 12


class BadScore(ValueError):
    """What is wrong, in words."""


class WrittenElsewhere(Exception):
    """Somebody else has changed the draft meanwhile."""


def named(rules: ScoreRules) -> ScoreRules:
    """Each rule called by what it says, so that a score can say what it is made of; no two alike."""
    taken: set[str] = set()

    def name(words: str) -> str:
        words = words[:110].rstrip(" .")
        found, number = words, 1
        while found in taken:
            number += 1
            found = f"{words} ({number})"
        taken.add(found)
        return found

    def being(one: ForBeing) -> ForBeing:
        return one.model_copy(update={"name": name(one.when.describe())})

    def doing(one: ForDoing) -> ForDoing:
        return one.model_copy(update={"name": name(one.on.describe().removeprefix("when "))})

    return rules.model_copy(
        update={"being": tuple(being(one) for one in rules.being), "doing": tuple(doing(one) for one in rules.doing)}
    )


def check(rules: ScoreRules) -> None:
    """Raises BadScore."""
    if len(rules.being) + len(rules.doing) > MOST_RULES:
        raise BadScore(f"An account's scores have {MOST_RULES} rules at most.")
    for marks in (rules.of(score).marks for score in rules.scores):
        if len(marks) > MOST_MARKS:
            raise BadScore(f"A score has {MOST_MARKS} marks at most.")
        names = {one.name.casefold() for one in marks}
        if len(names) < len(marks) or len({one.at_least for one in marks}) < len(marks):
            raise BadScore("Two marks have the same name, or stand at the same points.")


@transaction.atomic
def keep_draft(account: Account, rules: ScoreRules, revision: int, by: Person) -> ScoreDraft:
    """`revision`: of the draft that was changed; 0 for a new one. Raises BadScore, WrittenElsewhere."""
    check(rules)
    Account.objects.select_for_update(no_key=True).get(pk=account.pk)
    row = ScoreDraft.objects.filter(account=account).first() or ScoreDraft(account=account, revision=0)
    if row.revision != revision:
        raise WrittenElsewhere
    row.rules = named(rules).model_dump(mode="json")
    row.revision, row.changed_at, row.changed_by = revision + 1, clock.now(), by
    row.save()
    return row


class AtHand(NamedTuple):
    """`rules`: the draft's where there is one, else those that count, which are `counting`."""

    draft: ScoreDraft | None
    counting: ScoreRules
    rules: ScoreRules

    @property
    def said(self) -> str:
        """What is counted by these is kept under: the number of a draft comes again when it has counted."""
        return self.counting.model_dump_json() + self.rules.model_dump_json()


def at_hand(account: Account) -> AtHand:
    draft = ScoreDraft.objects.filter(account=account).select_related("changed_by").first()
    counting = rules_of(account) or ScoreRules()
    return AtHand(draft, counting, ScoreRules.model_validate(draft.rules) if draft else counting)


def missing(rules: ScoreRules) -> list[str]:
    """What keeps rules from counting, in words."""
    found = [
        f"“{one.name}”: the time of day, or the weekday, says nothing of who somebody is."
        for one in rules.being
        if goes_by_the_clock(one.when)
    ]
    found += [f"“{one.name}”: {one.when.missing()}." for one in rules.being if one.when.missing()]
    found += [f"“{one.name}”: {one.on.fault()}" for one in rules.doing if one.on.fault()]
    return found + [
        f"“{one.name}” goes by what is barred: {said}." for one in rules.all if (said := goes_by_barred(one, rules))
    ]


def still_named(account: Account, rules: ScoreRules) -> list[str]:
    """The scores that the rules have no more, and that something still goes by, in words."""
    counting = rules_of(account) or ScoreRules()
    gone = set(counting.further) - set(rules.further)
    uses = [one for one in usages.uses(account) if one.kind == "score" and one.name in gone]
    return [
        f"“{name}” cannot go: {several(sorted({f'“{one.title}”' for one in uses if one.name == name}), 'and')} goes by it."
        for name in sorted({one.name for one in uses})
    ]


def goes_by_barred(rule: Rule, rules: ScoreRules) -> str:
    """The barred fields that a rule goes by, in words; empty for none."""
    return several(
        [OWN[name].label.lower() if name in OWN else name for name in sorted(fields_in(rule) & set(rules.barred))],
        "and",
    )


@transaction.atomic
def let_count(account: Account, revision: int, starts: Sequence[int], by: Person) -> ScoreRecount:
    """The draft counts from now on. `starts`: the workflows that start for those who cross a mark by it. Raises BadScore,
    WrittenElsewhere."""
    row = ScoreDraft.objects.select_for_update().filter(account=account, revision=revision).first()
    if row is None:
        raise WrittenElsewhere
    rules = ScoreRules.model_validate(row.rules)
    if faults := missing(rules) + still_named(account, rules):
        raise BadScore(faults[0])
    ScoreRecount.objects.filter(account=account, state=ScoreRecount.State.RUNNING).update(
        state=ScoreRecount.State.STOPPED, ended_at=clock.now()
    )
    if not ScoreVersion.objects.filter(account=account).exists() and (before := rules_of(account)):
        ScoreVersion.objects.create(
            account=account, rules=before.model_dump(mode="json"), since=account.live_since or clock.now()
        )
    set_rules(account, rules)
    ScoreVersion.objects.create(account=account, rules=row.rules, since=clock.now(), by=by)
    row.delete()
    record(account, [Happened("score-rules.changed", None, {}, Cause(actor=by))])
    total = Contact.objects.filter(account=account).count()
    made = ScoreRecount.objects.create(
        account=account, by=by, asked_at=clock.now(), total=total, starts=list(dict.fromkeys(starts))[:100]
    )
    audit.note(account, by, "score", [audit.Noted("the rules of the lead score", "", f"count for {total:,} people")])
    wake("recount")
    return made


@transaction.atomic
def stop(account: Account) -> None:
    """Who is counted stays so; all others are when something happens to them, or when rules count anew."""
    ScoreRecount.objects.filter(account=account, state=ScoreRecount.State.RUNNING).update(
        state=ScoreRecount.State.STOPPED, ended_at=clock.now()
    )


def recount_batch(account: Account) -> int:
    """Some people of the recount that runs; answers how many."""
    with transaction.atomic():
        one = (
            ScoreRecount.objects.select_for_update(of=("self",), skip_locked=True)
            .filter(account=account, state=ScoreRecount.State.RUNNING)
            .first()
        )
        rules = rules_of(account)
        if one is None or rules is None:
            return 0
        people = Contact.objects.filter(account=account, id__gt=one.last_id).order_by("id")
        # Held as the engine holds them: what happens to them meanwhile earns after this.
        ids = list(people.select_for_update(no_key=True, of=("self",)).values_list("id", flat=True)[:BATCH])
        now, found = clock.now(), list[Earning]()
        for known, score in counted_anew(account, ids, rules, now).values():
            was = known.contact.score
            one.moved += any(
                rules.mark(was.at(now, of), of) != rules.mark(score.at(now, of), of) for of in rules.scores
            )
            found.append(Earning(known, score, now))
        keep(account, rules, found, Cause(actor=one.by), one.starts)
        one.done += len(ids)
        one.last_id = ids[-1] if ids else one.last_id
        if len(ids) < BATCH:
            one.state, one.ended_at = ScoreRecount.State.DONE, now
        one.save()
    return max(1, len(ids))
