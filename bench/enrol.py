"""./bluffside bench enrol: bringing 100,000 contacts into a workflow by hand, against a bare COPY of the same rows.

The same rows are the enrolments and the events that tell of them, into the same tables with their indexes and keys.
"""

import io
import time

import psycopg

from bench.ground import fresh_database, make_people, table

PEOPLE = 100_000


def main() -> None:
    url = fresh_database()
    from tests.server.conftest import make_house

    from bluffside.server.events.stream import Cause
    from bluffside.server.workflows import enrolling

    house = make_house()
    make_people(house.sailing.id, PEOPLE)
    workflow = house.workflow(leaves_on=[])
    people = list(house.sailing.contacts.order_by("id").values_list("id", flat=True))
    began = time.perf_counter()
    came = enrolling.enrol(workflow, people, "bench", Cause())
    ours = time.perf_counter() - began
    assert len(came.ids) == PEOPLE

    copied = 0.0
    with psycopg.connect(url) as connection:
        for name, where in (("workflows_enrolment", ""), ("events_event", " WHERE kind = 'enrolment.started'")):
            rows = io.BytesIO()
            with connection.cursor().copy(f"COPY (SELECT * FROM {name}{where}) TO STDOUT") as out:
                for part in out:
                    rows.write(part)
            connection.execute(f"TRUNCATE {name} CASCADE")
            connection.commit()
            began = time.perf_counter()
            with connection.cursor().copy(f"COPY {name} FROM STDIN") as into:
                into.write(rows.getbuffer())
            connection.commit()
            copied += time.perf_counter() - began
    print(f"\nEnrolling {PEOPLE:,} contacts by hand")
    table(
        [
            ("a bare COPY of the same enrolments and events", PEOPLE / copied, f"{copied:.2f} s"),
            (
                "enrolling them, entry rules included",
                PEOPLE / ours,
                f"{ours:.2f} s, {ours / copied:.1f} times; asked: 4",
            ),
        ],
        "rows/s",
    )


if __name__ == "__main__":
    main()
