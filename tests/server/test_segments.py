"""Segments: a condition as SQL finds exactly whom the core's Python finds, whatever the condition and the people."""

from collections.abc import Sequence
from datetime import UTC, date, datetime, timedelta
from decimal import Decimal
from typing import Any

import pytest
from django.db import transaction
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from bluffside.core.channels.keywords import plain
from bluffside.core.conditions import Case, Condition, Test
from bluffside.core.conditions.activity import KINDS
from bluffside.core.conditions.person import OWN_FIELDS
from bluffside.core.terms import CHANNELS, PURPOSES
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.weekdays import WEEKDAYS
from bluffside.server import sql
from bluffside.server.diary.models import Appointment
from bluffside.server.people.models import Consent, Contact, ContactTag, Tag
from bluffside.server.people.values import plain_value
from bluffside.server.pipeline.models import Deal
from bluffside.server.segments.compiling import deals_for, people_for
from bluffside.server.workflows.facts import load_facts
from tests.core.making import CLOCK
from tests.server.conftest import House

NOW = datetime(2026, 3, 29, 1, 30, tzinfo=UTC)  # a moment after the clocks changed in London
reader: TypeAdapter[Test] = TypeAdapter(Condition)

# ---- conditions and people, made up so that they often meet

ODD = "aAkKsSiI\u212a\u017f\u00df\u1e9e\u0130\u0131\u03a3\u03c3\u03c2\u00c9\u00e9\u01c5\ufb01\u00b5\u2160\u0660 \u00a0\t-_.,'!1\U0001f600"
words = st.one_of(
    st.sampled_from(["", "Bristol", "bristol!", "BRISTOL  ", "12", " 12.50", "1e3", "yes", "no", "5.", "2026-03-28", "2026-02-30", "0000-01-01"]),
    st.text(ODD, max_size=4),
    st.text(st.characters(blacklist_categories=["Cs"], blacklist_characters="\0"), max_size=4),
)  # fmt: skip
DATES = st.dates(date(2026, 2, 20), date(2026, 5, 2))
FIELDS = ("city", "budget", "born", "member", "likes")
values = st.one_of(
    words,
    st.decimals(-1000, 1000, places=2),
    st.integers(-20, 20).map(Decimal),
    DATES,
    st.booleans(),
    st.lists(words, max_size=3).map(tuple),
)
channel, purpose, flag = st.sampled_from(CHANNELS), st.sampled_from(PURPOSES), st.booleans()
how = st.sampled_from(["at_least", "fewer_than", "exactly", "more_than"])
LENGTHS = ["1 day", "2 weeks", "1 month", "30 hours", "0 days"]
within = st.sampled_from([None, *LENGTHS])
ZONES = ["Europe/London", "America/New_York", "Pacific/Auckland"]
# Where a length of time begins or ends, and a second to either side; and where clocks and months have their corners.
instants = st.sampled_from(
    [
        move(Duration.parse(length), NOW, zone) + timedelta(seconds=seconds)
        for length in LENGTHS
        for zone in ZONES[:2]
        for move in (Duration.before, Duration.before, Duration.after)
        for seconds in (-1, 0, 1)
    ]
    + [datetime(2026, 1, 31, 2, 30, tzinfo=UTC), datetime(2025, 10, 26, 0, 30, tzinfo=UTC)]
)


def one_of_kind(kind: str, **parts: st.SearchStrategy[Any]) -> st.SearchStrategy[dict[str, Any]]:
    return st.fixed_dictionaries({"test": st.just(kind), **parts})


OLDER = st.sampled_from([None, *({"than": length, "longer": longer} for length in LENGTHS for longer in (True, False))])


def field_tests() -> st.SearchStrategy[dict[str, Any]]:
    field = st.sampled_from([*FIELDS, *OWN_FIELDS])
    compare = st.sampled_from(["known", "missing", "is", "is_not", "contains"])
    number = st.sampled_from(["12", "12.5", "-3", "0"])
    return st.one_of(
        one_of_kind("field", field=field, compare=compare, value=words),
        one_of_kind("field", field=field, compare=st.just("any_of"), values=st.lists(words, max_size=2)),
        one_of_kind("field", field=field, compare=st.sampled_from(["is", "more_than", "less_than"]), value=number),
        one_of_kind("field", field=field, compare=st.sampled_from(["is", "before", "after"]), value=DATES.map(str)),
        one_of_kind("field", field=field, compare=st.sampled_from(["in_the_last", "in_the_next"]),
                value=st.sampled_from(["", "0 days", "1 day", "2 weeks", "1 month", "30 hours"])),
    )  # fmt: skip


KINDS_BY_NAME: dict[str, st.SearchStrategy[Any]] = {  # every kind of test; those with more parts more than once
    "tag": one_of_kind("tag", tag=st.sampled_from("ab"), has=flag),
    "list": one_of_kind("list", list=st.sampled_from(["regatta", "crew"]), on=flag),
    "reach": one_of_kind("reach", channel=channel, purpose=purpose, can=flag),
    "consent": one_of_kind("consent", channel=channel, purpose=purpose, state=st.sampled_from(["given", "withdrawn", "asked", "nothing"])),
    "score": one_of_kind("score", compare=how, points=st.sampled_from([0, 5, 10, 12.5])),
    "owner": one_of_kind("owner", member=st.sampled_from(["", "Mel R", "Nobody"]), responsible=flag),
    "field": field_tests(),
    "deal": one_of_kind("deal", has=flag, pipelines=st.sampled_from([[], ["Courses"]]), stages=st.sampled_from([[], ["New", "Asked"]]),
            state=st.sampled_from(["open", "won", "any"]), owner=st.sampled_from(["", "Mel R"]),
            value=st.sampled_from([None, {"compare": "at_least", "amount": 240}, {"compare": "exactly", "amount": 0}]),
            age=OLDER, in_stage=OLDER,
            done=st.sampled_from([None, *({"compare": how, "number": n, "activity": what} for how in ("fewer_than", "at_least", "exactly")
                                          for n in (1, 2) for what in ("call", "message"))])),
    "appointment": one_of_kind("appointment", has=flag, types=st.sampled_from([[], ["Taster"]]), within=within,
            states=st.sampled_from([[], ["booked"], ["missed", "attended"]]), when=st.sampled_from(["to_come", "past", "any"])),
    "count": one_of_kind("count", activity=st.sampled_from(["message", "message", "form", *KINDS]), compare=how, number=st.integers(0, 3), within=within,
            about=st.sampled_from(["", "", "Hello", "Open day", "call"])),
    "message": one_of_kind("message", message=st.sampled_from(["", "Hello"]), yes=flag, within=within,
            did=st.sampled_from(["was_sent", "got", "clicked", "answered", "bounced", "complained"])),
    "event": one_of_kind("event", event=st.sampled_from(["form.sent", "tag.added", "nothing.such"]), yes=flag, within=within,
            about=st.sampled_from(["", "Open day"])),
    "time": one_of_kind("time", start=CLOCK, end=CLOCK),
    "weekday": one_of_kind("weekday", weekdays=st.lists(st.sampled_from(WEEKDAYS), min_size=1, unique=True)),
}  # fmt: skip
kinds = tuple(KINDS_BY_NAME.values())
nested = st.recursive(
    st.sampled_from(kinds).flatmap(lambda kind: kind),
    lambda inner: one_of_kind("all", of=st.lists(inner, min_size=2, max_size=3)).flatmap(
        lambda made: st.sampled_from(["all", "any", "none"]).map(lambda kind: made | {"test": kind})
    ),
    max_leaves=5,
)
conditions = st.tuples(
    *kinds, *kinds, nested, nested, st.sampled_from([{"test": "all"}, {"test": "any"}, {"test": "none"}])
)

events = st.tuples(
    st.sampled_from(
        [
            ("form.sent", {"form": "Open day"}),
            ("task.done", {"task": "call", "step": "call"}),
            ("task.done", {"task": "to_do"}),
            ("message.sent", {"message": "Hello"}),
            ("message.sent", {"message": "Other"}),
            ("link.clicked", {"message": "Hello"}),
            ("reply.received", {"channel": "text", "message": "Hello"}),
            ("appointment.missed", {"type": "Taster"}),
            ("tag.added", {"tag": "a"}),
        ]
    ),
    instants,
)
PARTS: dict[str, st.SearchStrategy[Any]] = {
        "first_name": words, "last_name": words, "email": flag, "mobile": flag, "post": words, "social": words,
        "zone": st.sampled_from(["", "", *ZONES[:2]]), "added_at": instants, "owned": flag, "do_not_contact": st.sampled_from([False, False, True]),
        "lists": st.lists(st.sampled_from(["regatta", "crew"]), unique=True), "tags": st.sets(st.sampled_from("ab")),
        "exhausted": st.lists(channel, unique=True, max_size=2),
        "fields": st.dictionaries(st.sampled_from(FIELDS), values, max_size=4),
        "consents": st.dictionaries(st.tuples(channel, purpose), st.sampled_from(["given", "withdrawn", "asked"]), max_size=4),
        "score": st.lists(st.tuples(st.sampled_from([5, -2.5, 10, 0.1]), instants, st.sampled_from([None, 86_400, 3600.5, 30])), max_size=3),
        "deals": st.lists(st.tuples(st.sampled_from(["Courses", "Charter"]), st.sampled_from(["New", "Done"]),
                                    st.sampled_from(["open", "won", "lost"]), st.sampled_from([0, 240, Decimal("99.99")]), instants, instants, flag), min_size=1, max_size=2),
        "appointments": st.lists(st.tuples(st.sampled_from(["Taster", "Taster", "Fitting"]), instants,
                                           st.sampled_from(["booked", "confirmed", "cancelled", "missed", "attended"])), min_size=1, max_size=2),
        "happened": st.lists(events, min_size=1, max_size=6),
}  # fmt: skip
people = st.fixed_dictionaries(PARTS)
BLANK: dict[str, Any] = {
    "first_name": "", "last_name": "", "email": True, "mobile": True, "post": "", "social": "", "zone": "", "added_at": NOW,
    "owned": False, "do_not_contact": False, "lists": [], "tags": [], "exhausted": [], "fields": {}, "consents": {},
    "score": [], "deals": [], "appointments": [], "happened": [],
}  # fmt: skip


def write(house: House, number: int, one: dict[str, Any]) -> None:
    account, plainly = (
        house.sailing,
        ("first_name", "last_name", "post", "social", "zone", "added_at", "do_not_contact", "lists", "exhausted"),
    )
    contact = Contact.objects.create(
        account=account,
        email=f"p{number}@example.com" if one["email"] else "",
        mobile=f"+4477009000{number:02}" if one["mobile"] else "",
        responsible=house.member if one["owned"] else None,
        fields={name: plain_value(value) for name, value in one["fields"].items()},
        score=[[f"r{n}", points, at.isoformat(), half] for n, (points, at, half) in enumerate(one["score"])],
        **{name: one[name] for name in plainly},
    )
    for name in one["tags"]:
        tag, _ = Tag.objects.get_or_create(account=account, name=name)
        ContactTag.objects.create(account=account, contact=contact, tag=tag)
    for (by, why), state in one["consents"].items():
        at = NOW - timedelta(days=20) * len(f"{by}{why}")  # some of them longer ago than consent may be good for
        Consent.objects.create(account=account, contact=contact, channel=by, purpose=why, state=state, at=at)
    for n, (pipeline, stage, state, value, created, since, owned) in enumerate(one["deals"]):
        Deal.objects.create(
            account=account, contact=contact, ref=str(n), pipeline=pipeline, stage=stage, state=state, value=value,
            created_at=created, since=since, owner=house.member if owned else None,
        )  # fmt: skip
    for kind, start, state in one["appointments"]:
        Appointment.objects.create(
            account=account, contact=contact, type=kind, start=start, end=start + timedelta(hours=1), state=state
        )
    for (kind, data), at in one["happened"]:
        sql.execute(
            "INSERT INTO events_event (account_id, kind, contact_id, at, data, depth) VALUES (%s, %s, %s, %s, %s::jsonb, 0)",
            [account.id, kind, contact.id, at, sql.to_json(data)],
        )


# ---- the tests


def same(
    house: House,
    who: Sequence[dict[str, Any]],
    asked: Sequence[dict[str, Any]],
    policy: bool = False,
    months: int | None = None,
) -> None:
    account = house.sailing
    account.care = {"policy": {"marketing": "ask_first"}} if policy else {}
    account.care["consent_months"] = months
    with transaction.atomic():
        for number, one in enumerate(who):
            write(house, number, one)
        ids = list(Contact.objects.filter(account=account).values_list("id", flat=True))
        facts = load_facts(account, ids, now=NOW)
        for written in asked:
            condition = reader.validate_python(written)
            found = set(people_for(account, condition, NOW).values_list("id", flat=True))
            assert found == {id for id in ids if condition.holds(Case(facts[id], NOW))}, condition.describe()
            alone = {
                (id, deal.id)
                for id in ids
                for deal in facts[id].contact.deals
                if condition.holds(Case(facts[id].with_contact(deals=(deal,)), NOW))
            }
            deals = set(deals_for(account, condition, NOW).values_list("contact_id", "ref"))
            assert deals == alone, condition.describe()
        transaction.set_rollback(True)


@settings(max_examples=40, suppress_health_check=list(HealthCheck))
@given(who=st.lists(people, min_size=2, max_size=4), asked=conditions, policy=flag, months=st.none() | st.just(8))
def test_sql_finds_whom_the_core_finds(house: House, who: Any, asked: Any, policy: bool, months: int | None) -> None:
    same(house, who, asked, policy, months)


# What a kind of test looks at: only that is made up, so that tests and people meet, and at their edges.
LOOKS_AT = {
    "field": ("fields", "first_name", "zone", "added_at"), "score": ("score",), "deal": ("deals", "zone", "happened"),
    "appointment": ("appointments", "zone"), "count": ("happened", "zone"), "message": ("happened", "zone"),
    "event": ("happened", "zone"), "reach": ("consents", "exhausted", "email"),
}  # fmt: skip


@pytest.mark.parametrize("kind", LOOKS_AT)
@settings(max_examples=40, suppress_health_check=list(HealthCheck))
@given(data=st.data())
def test_each_kind_of_test_at_its_edges(house: House, kind: str, data: st.DataObject) -> None:
    made = st.fixed_dictionaries({part: PARTS[part] for part in LOOKS_AT[kind]})
    who = data.draw(st.lists(made, min_size=3, max_size=6))
    asked = data.draw(st.lists(KINDS_BY_NAME[kind], min_size=4, max_size=8))
    same(house, [BLANK | one for one in who], asked)


@settings(max_examples=150, suppress_health_check=list(HealthCheck))
@given(
    texts=st.lists(words | st.text(st.characters(blacklist_categories=["Cs"], blacklist_characters="\0")), min_size=1)
)
@example(
    texts=[
        "\u0130stanbul",
        "Stra\u00dfe",
        "\u1e9e",
        "\ufb03",
        "\u0149",
        "\u03a3\u03a3\u03a3",
        "\u00b5",
        "caf\u00e9\u0301",
        "\u0660\u00b2\u2460",
        "_",
    ]
)
def test_words_are_compared_as_the_core_compares_them(db: None, texts: list[str]) -> None:
    query = (
        "SELECT bluffside_plain(t), bluffside_fold(t) FROM unnest(%s::text[]) WITH ORDINALITY AS u (t, n) ORDER BY n"
    )
    assert sql.rows(query, [texts]) == [(plain(one), one.casefold()) for one in texts]


@pytest.mark.parametrize("block", range(0, 0x11000, 0x4000))
def test_every_letter_of_unicode_is_folded_alike(db: None, block: int) -> None:
    """Of the first planes, where scripts that have case live, with a letter before and after."""
    letters = [f"x{chr(code)}x" for code in range(max(1, block), block + 0x4000) if not 0xD800 <= code <= 0xDFFF]
    query = (
        "SELECT bluffside_plain(t), bluffside_fold(t) FROM unnest(%s::text[]) WITH ORDINALITY AS u (t, n) ORDER BY n"
    )
    assert sql.rows(query, [letters]) == [(plain(one), one.casefold()) for one in letters]
