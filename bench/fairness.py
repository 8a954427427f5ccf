"""./bluffside bench fairness: how long a text of a small account waits while a large one has 100,000 people due at once.

Two workers with both hands, as in life. Once the large account's workflow is in full swing, a contact of the small one
is tagged every second or so; measured is from the tag to the phone: the event handed on, the workflow begun, the text
written, handed over and kept by the carrier.
"""

import statistics
import time

import psycopg

from bench.ground import fresh_database, make_people, wait_for, workers

PEOPLE = 100_000
TEXTS = 15


def main() -> None:
    url = fresh_database()
    from tests.server.conftest import make_house

    from bluffside.server.events.stream import Cause
    from bluffside.server.people.services import add_contact, add_tags
    from bluffside.server.workflows import enrolling

    house = make_house()
    make_people(house.pottery.id, PEOPLE)
    large = house.workflow(house.pottery, leaves_on=[], starts=[{"kind": "by_hand"}])
    house.workflow(house.sailing)
    people = list(house.pottery.contacts.values_list("id", flat=True))
    waits = []
    with psycopg.connect(url, autocommit=True) as connection, workers(url, 2):
        wait_for(connection, "SELECT count(*) FROM practice_workerseen", 2)
        quiet = [_text(connection, house, add_contact, add_tags, Cause, 900 + n) for n in range(5)]
        enrolling.enrol(large, people, "bench", Cause())
        wait_for(connection, "SELECT count(*) FROM messaging_message", 3_000)
        for number in range(TEXTS):
            waits.append(_text(connection, house, add_contact, add_tags, Cause, 100 + number))
            time.sleep(0.1)
        row = connection.execute("SELECT count(*) FROM workflows_enrolment WHERE due_at <= now()").fetchone()
        left = row[0] if row else 0
    print(
        f"\nA text of a small account while a large one has {PEOPLE:,} people due at once ({left:,} still due at the end)"
    )
    print(f"  alone    median {statistics.median(quiet):.2f} s, longest {max(quiet):.2f} s")
    print(f"  beside   median {statistics.median(waits):.2f} s, longest {max(waits):.2f} s; asked: a few seconds")
    if not left:
        print("  The large account was done before the small one's last text: the figures flatter.")


def _text(connection, house, add_contact, add_tags, cause, number: int) -> float:  # type: ignore[no-untyped-def]
    """Seconds from the tag of a new contact to their phone."""
    contact = add_contact(house.sailing, {"first_name": f"S{number}", "mobile": f"+447700900{number % 1000:03}"})
    if contact.mobile.endswith("99"):
        contact.mobile = contact.mobile[:-2] + "98"
    began = time.perf_counter()
    add_tags(house.sailing, [(contact.id, "taster", cause())])
    wait_for(connection, f"SELECT count(*) FROM outside_item WHERE theirs = '{contact.mobile}'", 1, patience=60)
    return time.perf_counter() - began


if __name__ == "__main__":
    main()
