"""The lead score of the sailing school in the demo: rules that count from the first day, and some that do not yet."""

from bluffside.core.scoring.rules import ScoreRules
from bluffside.server.practice.models import Account, Person
from bluffside.server.scores import recounting
from bluffside.server.scores.models import ScoreDraft


def _doing(points: int, half_life: str, limit: int, **on: str) -> dict[str, object]:
    return {"kind": "doing", "name": "rule", "points": points, "on": on, "half_life": half_life, "limit": limit}


def _being(points: int, **when: object) -> dict[str, object]:
    return {"kind": "being", "name": "rule", "points": points, "when": when}


CLICKS = _doing(10, "30 days", 30, kind="link_clicked")
RULES = {
    "being": [
        _being(10, test="tag", tag="taster day", has=True),
        _being(15, test="deal", has=True, state="open"),
    ],
    "doing": [
        CLICKS,
        _doing(20, "45 days", 40, kind="replied"),
        _doing(25, "60 days", 25, kind="appointment", what="booked"),
        _doing(-15, "60 days", 30, kind="appointment", what="missed"),
    ],
}  # fmt: skip


def set_up(account: Account, by: Person) -> None:
    row = recounting.keep_draft(account, ScoreRules.model_validate(RULES), 0, by)
    recounting.let_count(account, row.revision, [], by)


def think_again(account: Account, by: Person) -> None:
    """A draft: clicks are worth twice as much, and who lost a deal stands lower."""
    changed = RULES | {
        "being": [*RULES["being"], _being(-20, test="deal", has=True, state="lost")],
        "doing": [CLICKS | {"points": 20, "limit": 40}, *RULES["doing"][1:]],
    }
    if not ScoreDraft.objects.filter(account=account).exists():
        recounting.keep_draft(account, ScoreRules.model_validate(changed), 0, by)
