"""./bluffside bench booking: 200,000 appointments in one account, given by 20 members.

a month        when a type that 20 members give is free in the next 30 days, server time (asked for: below 100 ms)
the pages      what anybody books on, an appointment's own, the team's calendar of a week, Today: the median and the 95th of a
               hundred, server time (asked for: below 150 ms)
"""

from collections.abc import Callable
from datetime import timedelta

from bench.ground import fresh_database, measure

APPOINTMENTS, MEMBERS = 200_000, 20
OPEN = {day: [{"start": "09:00", "end": "17:00"}] for day in ("mon", "tue", "wed", "thu", "fri", "sat", "sun")}


def fill() -> None:
    """Six hours of ten are taken, from three and a half years back until two months ahead."""
    from tests.server.conftest import make_house

    from bench.ground import make_people
    from bluffside.server import sql
    from bluffside.server.appointments import offering
    from bluffside.server.practice import walls
    from bluffside.server.practice.models import Membership, Person

    house = make_house()
    walls.enter(house.sailing)
    own = house.sailing
    own.care = {"opening": {"days": OPEN}}
    own.save()
    make_people(own.id, 20_000)
    members = []
    for n in range(MEMBERS):
        one = Person.objects.create_user(f"m{n}@example.com", "chalk-and-thrift", name=f"M{n}", practice=house.practice)
        Membership.objects.create(account=own, person=one, role="team")
        members.append(one.pk)
    kind = offering.make(own, "Lesson", house.consultant)
    offering.change(kind, {"members": members, "every": 60, "minutes": 60}, house.consultant)
    for index in range(MEMBERS):  # a type of one's own each: one sitting a type and beginning
        offering.make(own, f"With M{index}", house.consultant)
    each = APPOINTMENTS // MEMBERS
    sql.execute(
        """
        CREATE TEMP TABLE made AS
        SELECT m.id AS member, t.id AS type, t.name, date_trunc('day', now()) + interval '60 days'
               - (n / 5) * interval '1 day' + (9 + (n * 3 + t.rank) %% 5 + (n %% 5) / 3) * interval '1 hour' AS start, n
          FROM unnest(%s::bigint[]) WITH ORDINALITY AS m (id, rank)
          JOIN (SELECT id, name, row_number() OVER (ORDER BY id) AS rank FROM appointments_appointmenttype WHERE name <> 'Lesson') t
            ON t.rank = m.rank, generate_series(0, %s) AS n
        """,
        [members, each * 2],
    )
    sql.execute("CREATE TEMP TABLE kept AS SELECT DISTINCT ON (member, start) * FROM made ORDER BY member, start")
    sql.execute(
        'INSERT INTO appointments_sitting (account_id, type_id, start, "end", places)'
        " SELECT %s, type, start, start + interval '1 hour', 1 FROM kept ORDER BY start DESC LIMIT %s",
        [own.id, APPOINTMENTS],
    )
    sql.execute(
        "INSERT INTO appointments_taken (account_id, sitting_id, member_id, during) SELECT s.account_id, s.id, k.member,"
        ' tstzrange(s.start, s."end") FROM appointments_sitting s JOIN kept k ON k.type = s.type_id AND k.start = s.start'
    )
    sql.execute(
        'INSERT INTO diary_appointment (account_id, contact_id, type, start, "end", state, place, member_id)'
        ' SELECT s.account_id, (SELECT min(id) FROM people_contact) + s.id %% 20000, k.name, s.start, s."end",'
        " CASE WHEN s.start < now() THEN 'attended' ELSE 'booked' END, '', k.member"
        " FROM appointments_sitting s JOIN kept k ON k.type = s.type_id AND k.start = s.start ORDER BY s.id"
    )
    sql.execute(
        "INSERT INTO appointments_place (account_id, sitting_id, number, appointment_id) SELECT s.account_id, s.id, 1, a.id"
        " FROM appointments_sitting s JOIN appointments_taken t ON t.sitting_id = s.id"
        " JOIN diary_appointment a ON a.member_id = t.member_id AND a.start = s.start"
    )
    sql.execute("VACUUM ANALYZE")


def main() -> None:
    fresh_database()
    fill()
    from django.conf import settings
    from django.test import Client

    from bluffside.server.appointments import offering
    from bluffside.server.appointments.models import AppointmentType
    from bluffside.server.diary.models import Appointment
    from bluffside.server.people.signed import appointment_link
    from bluffside.server.practice import clock, walls
    from bluffside.server.practice.models import Account, Person

    settings.ALLOWED_HOSTS = ["*"]
    own = Account.objects.get(slug="sailing")
    walls.enter(own)
    print(f"{Appointment.objects.count():,} appointments")
    kind = AppointmentType.objects.select_related("account").get(name="Lesson")
    today = clock.now().date()
    measure(
        "a month of free times, 20 members", lambda: offering.free_times(kind, today, today + timedelta(days=30)), 100
    )
    to_come = Appointment.objects.filter(start__gt=clock.now() + timedelta(days=2)).order_by("start")[0]
    page = "/" + appointment_link(own.pk, to_come.pk).split("/", 3)[3]
    client = Client()
    client.force_login(Person.objects.get(is_consultant=True), "bluffside.server.signing_in.adapters.Backend")

    def get(path: str, who: Client) -> Callable[[], object]:
        def ask() -> None:
            answer = who.get(path)
            assert answer.status_code == 200, (path, answer.status_code)

        return ask

    measure("page: what anybody books on", get(f"/book/{kind.token}", Client()), 150)
    measure("page: an appointment's own", get(page, Client()), 150)
    measure("the calendar of a week", get(f"/api/accounts/sailing/calendar?start={today}&days=7", client), 150)
    measure("page: today", get("/api/accounts/sailing/today", client), 150)


if __name__ == "__main__":
    main()
