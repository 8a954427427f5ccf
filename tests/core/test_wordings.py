"""The wording that ships: complete, each fit to be published as it is."""

from collections import Counter

from bluffside.core.workflow.checks import check
from bluffside.core.workflow.house import House
from bluffside.core.workflow.library import as_message
from bluffside.wordings import wordings


def test_every_wording_that_ships_could_be_published_as_it_is() -> None:
    found = wordings()
    assert len(found) >= 24 and len({one.key for one in found}) == len({one.name for one in found}) == len(found)
    assert min(Counter(one.trade for one in found).values()) >= 6
    said = {(one.trade, one.occasion) for one in found}
    assert len(said) == len(found), "two for one occasion of a trade"
    for one in found:
        told = [each.sentence for each in check(as_message(one.name, one.line), House(business="Some business"))]
        assert not told, (one.key, told)
