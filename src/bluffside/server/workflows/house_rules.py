"""What holds for every workflow of an account: its care (quiet hours, limits, pace …) and its rules for the lead score."""

from django.db import transaction
from ninja import Path, Router

from bluffside.core.care.house import Care
from bluffside.core.scoring.rules import ScoreRules
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.people.queries import account_facts
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.workflows import scoring

router = Router(tags=["house rules"], auth=InAccount())


@router.get("care", response=Care)
def get_care(request: AccountRequest, account: Path[str]) -> Care:
    return account_facts(request.account).care


@router.put("care", response=Care)
def put_care(request: AccountRequest, account: Path[str], care: Care) -> Care:
    """From now on, these hold; what waits already is looked at by them when its moment comes."""
    require(request, "workflows")
    own = request.account
    with transaction.atomic():
        own.care = care.model_dump(mode="json")
        own.save(update_fields=["care"])
        record(own, [Happened("care.changed", None, {}, Cause(actor=request.person))])
    return care


@router.get("score-rules", response=ScoreRules)
def get_score_rules(request: AccountRequest, account: Path[str]) -> ScoreRules:
    return scoring.rules_of(request.account) or ScoreRules()


@router.put("score-rules", response=ScoreRules)
def put_score_rules(request: AccountRequest, account: Path[str], rules: ScoreRules) -> ScoreRules:
    """From now on, points are earned by these; what was earned stays."""
    require(request, "workflows")
    with transaction.atomic():
        scoring.set_rules(request.account, rules)
        record(request.account, [Happened("score-rules.changed", None, {}, Cause(actor=request.person))])
    return rules
