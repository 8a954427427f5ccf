"""The scores of those in a world: points for what happens, and for who somebody is, by time alone, too."""

from datetime import datetime

from bluffside.core.events import Event
from bluffside.core.facts import Contact, Facts
from bluffside.core.scoring.rules import ScoreRules
from bluffside.core.scoring.sheet import changes


class ScoreKeeping:
    def __init__(self, rules: ScoreRules) -> None:
        self._rules = rules
        self._turns = dict[str, datetime | None]()  # by contact, when points for who they are may next be others

    def after(self, facts: Facts, at: datetime, event: Event | None = None) -> tuple[Contact, list[Event]]:
        """The contact with points for an event, and for who they are by now; and what became of the scores."""
        was = facts.contact.score
        if event:
            facts = facts.with_contact(score=self._rules.after(was, event, facts))
        score = self._rules.standing(facts, at)
        return facts.contact.changed(score=score), changes(was, score, at)

    def ahead(self, facts: Facts, at: datetime) -> datetime | None:
        """When somebody is to be looked at again, where that is another instant than was known."""
        turns, known = self._rules.turns_at(facts, at), self._turns.get(facts.contact.id)
        self._turns[facts.contact.id] = turns
        return turns if turns != known else None

    def is_due(self, contact: str, instant: datetime) -> bool:
        return self._turns.get(contact) == instant
