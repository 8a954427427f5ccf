"""The names by which workflows know what people come in by."""

from bluffside.server.capture.models import Form, IncomingRule, LeadSource
from bluffside.server.practice.models import Account


def names(account: Account) -> dict[str, dict[str, str]]:
    """Forms, sources of leads, words that rules listen to; with what is worth knowing of each."""
    forms = Form.objects.filter(account=account)
    rules = IncomingRule.objects.filter(account=account)
    return {
        "form": {one.name: "the team fills it in" if one.for_team else "" if one.open else "closed" for one in forms},
        "source": {one.name: "" if one.on else "off" for one in LeadSource.objects.filter(account=account)},
        "keyword": {word: "a rule for what comes in" for one in rules for word in one.words},
    }
