"""./bluffside bench score [PEOPLE]: everybody's lead score counted anew by changed rules (100,000 people unless said, three events each).

counting anew   as the worker does it, 500 at a time, each portion durable: people a second, and what that is for 1,000,000
the floor       the same scores written 500 at a time by SQL alone
compared        what a page asks before it counts: 20,000 people looked at
"""

import sys
import time

from bench.ground import fresh_database, timed

PORTION = 500


def fill(people: int) -> None:
    from tests.server.conftest import make_house

    from bench.ground import make_people
    from bluffside.core.scoring.rules import ScoreRules
    from bluffside.server import sql
    from bluffside.server.demo.scored import RULES
    from bluffside.server.practice import walls
    from bluffside.server.workflows.scoring import set_rules

    own = make_house().sailing
    walls.enter(own)
    make_people(own.id, people)
    set_rules(own, ScoreRules.model_validate(RULES))
    sql.execute(
        "INSERT INTO events_event (account_id, kind, contact_id, at, data, depth)"
        " SELECT account_id, k.kind, id, now() - (id %% 40) * interval '1 day', k.data::jsonb, 0 FROM people_contact,"
        """ (VALUES ('link.clicked', '{"message": "News", "url": "https://example.com/"}'),"""
        """ ('reply.received', '{"text": "Yes", "channel": "text", "message": ""}'),"""
        """ ('appointment.booked', '{"appointment": "1", "type": "Taster sail"}')) AS k (kind, data)""",
        [],
    )
    sql.execute("VACUUM ANALYZE")


def main() -> None:
    people = int(sys.argv[1]) if len(sys.argv) > 1 else 100_000
    fresh_database()
    fill(people)
    from bluffside.core.scoring.rules import ScoreRules
    from bluffside.server import sql
    from bluffside.server.demo.scored import RULES
    from bluffside.server.practice import clock, walls
    from bluffside.server.practice.models import Account, Person
    from bluffside.server.scores import recounting
    from bluffside.server.scores.counting import LOOKED_AT, compare
    from bluffside.server.workflows.scoring import rules_of

    own = Account.objects.get(slug="sailing")
    walls.enter(own)
    by = Person.objects.get(is_consultant=True)
    rules = ScoreRules.model_validate(RULES)
    row = recounting.keep_draft(own, rules, 0, by)
    counting = rules_of(own) or rules
    took = timed(lambda: compare(own, counting, rules, clock.now()))
    print(f"compared, {min(people, LOOKED_AT):,} of {people:,} looked at: {took:.1f} s")
    recounting.let_count(own, row.revision, [], by)
    began = time.perf_counter()
    while recounting.recount_batch(own):
        pass
    took = time.perf_counter() - began
    print(
        f"counting anew: {people / took:,.0f} people a second; 1,000,000 in {1_000_000 / (people / took) / 60:.1f} minutes"
    )
    ids = [one for (one,) in sql.rows("SELECT id FROM people_contact ORDER BY id")]

    def floor() -> None:
        for start in range(0, len(ids), PORTION):
            sql.execute(
                "UPDATE people_contact SET score = score WHERE id = ANY(%s::bigint[])", [ids[start : start + PORTION]]
            )

    alone = timed(floor)
    print(f"the floor: {people / alone:,.0f} a second; counting anew takes {took / alone:.1f} times as long")


if __name__ == "__main__":
    main()
