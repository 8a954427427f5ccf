"""Conditions of the core, compiled to one SQL query through Django's ORM.

`people_for` answers the contacts for whom a condition holds at an instant. It must say of everybody what
`condition.holds` says: tests/server/test_segments.py makes conditions and people up and compares the two.

Three things make that simple to read:
  - every test becomes a boolean that is never null, so all, any and none are AND, OR and NOT;
  - words are compared by functions made from Python's own tables (functions.py);
  - what depends on the contact's time zone is worked out by the core, once for each zone that the account's people live
    in, and zones with the same result share one test. Most accounts have one.
"""

from collections.abc import Callable, Hashable
from datetime import datetime
from functools import cached_property
from typing import TypeVar

from django.db.models import (
    DateTimeField,
    Exists,
    F,
    FloatField,
    Func,
    OuterRef,
    Q,
    QuerySet,
    Subquery,
    TextField,
)
from django.db.models import DecimalField as NumberField
from django.db.models import Value as Literal
from django.db.models.expressions import Combinable
from django.db.models.functions import Cast
from django.db.models.lookups import LessThan

from bluffside.core.channels.keywords import plain
from bluffside.core.conditions import (
    AllOf,
    AnyOf,
    AppointmentTest,
    Case,
    ConsentTest,
    CountTest,
    DealTest,
    EventTest,
    FieldTest,
    ListTest,
    MessageTest,
    NoneOf,
    OwnerTest,
    ReachTest,
    ScoreTest,
    TagTest,
    Test,
    TimeTest,
    WeekdayTest,
)
from bluffside.core.conditions.activity import KINDS, MESSAGE_KINDS, Activity
from bluffside.core.conditions.base import as_number
from bluffside.core.conditions.deals import Older
from bluffside.core.conditions.person import OWN_FIELDS
from bluffside.core.events import SUBJECTS
from bluffside.core.facts import Contact as ContactFacts
from bluffside.core.facts import Facts
from bluffside.core.terms import ADDRESS_OF
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.local import to_local
from bluffside.server.diary.models import Appointment
from bluffside.server.events.models import Event
from bluffside.server.people.models import Consent, Contact, ContactTag, Tag
from bluffside.server.people.queries import account_facts
from bluffside.server.pipeline.models import Deal
from bluffside.server.practice.models import Account
from bluffside.server.segments.pieces import (
    ALWAYS,
    NEVER,
    all_of,
    any_of,
    compared,
    how_often,
    is_equal,
    is_true,
    numeric,
    own_field,
    score_at,
    whether,
)

Bound = TypeVar("Bound", bound=Hashable)


def people_for(account: Account, condition: Test, now: datetime) -> QuerySet[Contact]:
    """The account's contacts for whom the condition holds."""
    return Contact.objects.filter(Compiler(account, now).compiled(condition), account=account)


def deals_for(account: Account, condition: Test, now: datetime) -> QuerySet[Deal]:
    """The account's deals such that the condition holds for whose each is, had they no other."""
    whose = Contact.objects.filter(Compiler(account, now, of_deal=True).compiled(condition), id=OuterRef("contact_id"))
    return Deal.objects.filter(Exists(whose), account=account)


def _deeds(activity: Activity) -> QuerySet[Event]:
    kind, data = KINDS[activity]
    return Event.objects.filter(kind=kind, **{f"data__{name}": value for name, value in data.items()})


class Compiler:
    """Compiles conditions for one account at one instant; `of_deal`: of contacts of a deal in the query around, as if they had
    that one alone."""

    def __init__(self, account: Account, now: datetime, of_deal: bool = False) -> None:
        self.account, self.now, self.of_deal = account, now, of_deal

    def compiled(self, test: Test) -> Q:  # noqa: C901  # a case a kind of test
        match test:
            case AllOf():
                return all_of(self.compiled(one) for one in test.of)
            case AnyOf():
                return any_of(self.compiled(one) for one in test.of)
            case NoneOf():
                return ~any_of(self.compiled(one) for one in test.of)
            case TagTest():
                # The tag is found once, and then each contact in one index; a join would look at all tags of each.
                tag = Tag.objects.filter(account=self.account, name=test.tag).values("id")[:1]
                tagged = ContactTag.objects.filter(contact=OuterRef("id"), tag_id=Subquery(tag))
                return whether(Exists(tagged), test.has)
            case ListTest():
                return whether(Q(lists__contains=[test.list]), test.on)
            case OwnerTest():
                owned = Q(responsible__name=test.member) if test.member else Q(responsible__name__gt="")
                return whether(Exists(Contact.objects.filter(owned, id=OuterRef("id"))), test.responsible)
            case ScoreTest():
                return Q(
                    compared(score_at(self.now, test.score), test.compare, Cast(Literal(test.points), FloatField()))
                )
            case ConsentTest():
                return self._consent(test.channel, test.purpose, test.state)
            case ReachTest():
                return whether(self._reached(test), test.can)
            case FieldTest():
                return self._field(test)
            case DealTest():
                return self._by_zone(lambda zone: zone if test.age or test.in_stage else "", self._deal(test))
            case AppointmentTest():
                return self._appointment(test)
            case CountTest():
                return self._count(test)
            case MessageTest():
                events = Event.objects.filter(kind=MESSAGE_KINDS[test.did])
                if test.message:
                    events = events.filter(data__message=test.message)
                return self._happened(events, test.within, lambda found: whether(Exists(found), test.yes))
            case EventTest():
                events = self._about(Event.objects.filter(kind=test.event), test.event, test.about)
                return self._happened(events, test.within, lambda found: whether(Exists(found), test.yes))
            case TimeTest() | WeekdayTest():
                return self._by_zone(
                    lambda zone: test.holds(Case(Facts(ContactFacts(zone=zone)), self.now)),
                    lambda holds: ALWAYS if holds else NEVER,
                )
        raise TypeError(f"no SQL for {type(test).__name__}")

    # ---- time zones

    @cached_property
    def zones(self) -> list[str]:
        """The zones that contacts have of their own."""
        people = Contact.objects.filter(account=self.account).exclude(zone="")
        return sorted(people.order_by().values_list("zone", flat=True).distinct())

    def _by_zone(self, bound: Callable[[str], Bound], test: Callable[[Bound], Q]) -> Q:
        """A test with a bound that depends on the contact's zone; zones with the same bound are tested together."""
        usual = bound(self.account.zone)
        others: dict[Bound, list[str]] = {}
        for zone in self.zones:
            if (own := bound(zone)) != usual:
                others.setdefault(own, []).append(zone)
        elsewhere = [zone for zones in others.values() for zone in zones]
        if not elsewhere:
            return test(usual)
        parts = [Q(zone__in=zones) & test(own) for own, zones in others.items()]
        return any_of([~Q(zone__in=elsewhere) & test(usual), *parts])

    def _at(self, instant: datetime) -> Combinable:
        return Cast(Literal(instant), DateTimeField())

    # ---- what a person is

    def _consent(self, channel: str, purpose: str, state: str, since: datetime | None = None) -> Q:
        said = Consent.objects.filter(contact=OuterRef("id"), channel=channel, purpose=purpose)
        if since:
            said = said.filter(at__gte=since)
        return ~Q(Exists(said)) if state == "nothing" else Q(Exists(said.filter(state=state)))

    def _reached(self, test: ReachTest) -> Q:
        """core.channels.consent.why_closed finds nothing."""
        care = account_facts(self.account).care
        allowed = (
            self._consent(test.channel, test.purpose, "given", care.agreed_since(self.now))
            if care.policy_for(test.purpose) == "ask_first"
            else ~self._consent(test.channel, test.purpose, "withdrawn")
        )
        no_address = Q(**{ADDRESS_OF[test.channel]: ""})
        return Q(do_not_contact=False) & ~no_address & ~Q(exhausted__contains=[test.channel]) & allowed

    def _field(self, test: FieldTest) -> Q:
        if test.compare in ("in_the_last", "in_the_next"):
            if not test.value:
                return NEVER
            return self._by_zone(lambda zone: self._span(test, zone), lambda span: self._within(test.field, *span))
        if test.field == "added":
            return self._by_zone(lambda zone: zone, lambda zone: self._value(test, self._day_added(zone)))
        return self._value(test, self._text(test.field))

    def _text(self, field: str) -> Combinable | None:
        """A field of the contact's own as text; None for one of the account's, which is JSON."""
        if field == "owner":
            return Func(F("responsible__name"), Literal(""), function="coalesce", output_field=TextField())
        return F(field) if field in OWN_FIELDS else None

    def _day_added(self, zone: str) -> Combinable:
        return Func(
            F("added_at"), Literal(zone), template="to_char(%(expressions)s, 'YYYY-MM-DD')", arg_joiner=" AT TIME ZONE ",
            output_field=TextField(),
        )  # fmt: skip

    def _value(self, test: FieldTest, text: Combinable | None) -> Q:
        """The field's value compared; `text` is it where it is text, else it is JSON under its name."""
        value = own_field(test.field) if text is None else text
        suffix = "_in" if text is None else ""
        known = is_true("bluffside_known", value) if text is None else ~Q(is_equal(value, ""))
        number = as_number(test.value)

        def same(wanted: str) -> Q:
            words, held = plain(wanted), as_number(wanted)
            if text is not None:
                return is_true("bluffside_text_is", value, Literal(words))
            exact = numeric(held) if held is not None else Func(template="NULL::numeric", output_field=NumberField())
            found = is_true("bluffside_is", value, Literal(words), exact)
            if (
                not words or held is not None or words in ("yes", "no")
            ):  # what is a number or a truth may be written otherwise
                return found
            said = Func(
                F("fields"),
                Literal(test.field),
                template="(%(expressions)s)",
                arg_joiner=" ->> ",
                output_field=TextField(),
            )
            return is_true("bluffside_may_be", said, Literal(words.split()[0])) & found

        match test.compare:
            case "known":
                return known
            case "missing":
                return ~known
            case "is":
                return same(test.value) if plain(test.value) else known & same(test.value)
            case "is_not":
                return ~same(test.value)
            case "any_of":
                return known & any_of(same(one) for one in test.values)
            case "contains" if test.value:
                wanted = Literal(test.value.casefold())
                if text is None:
                    return is_true("bluffside_contains", value, wanted)
                return is_true(
                    "strpos",
                    Func(value, function="bluffside_fold"),
                    wanted,
                    template="%(function)s(%(expressions)s) > 0",
                )
            case "more_than" | "less_than" if number is not None:
                held = Func(value, function=f"bluffside_number{suffix}", output_field=NumberField())
                sign = ">" if test.compare == "more_than" else "<"
                return is_true("", held, numeric(number), template="coalesce(%(expressions)s, false)", arg_joiner=sign)
            case "before" | "after" if test.value:
                return self._day_in(test.field, value, "<" if test.compare == "before" else ">", test.value)
        return NEVER

    def _span(self, test: FieldTest, zone: str) -> tuple[str, str]:
        """The first and the last day that count, in a zone."""
        today, length = to_local(self.now, zone).date(), Duration.parse(test.value)
        if test.compare == "in_the_last":
            return to_local(length.before(self.now, zone), zone).date().isoformat(), today.isoformat()
        return today.isoformat(), to_local(length.after(self.now, zone), zone).date().isoformat()

    def _within(self, field: str, first: str, last: str) -> Q:
        if field == "added":
            return self._by_zone(
                lambda zone: zone,
                lambda zone: (
                    self._day_in(field, self._day_added(zone), ">=", first)
                    & self._day_in(field, self._day_added(zone), "<=", last)
                ),
            )
        value = self._text(field) or own_field(field)
        return self._day_in(field, value, ">=", first) & self._day_in(field, value, "<=", last)

    def _day_in(self, field: str, value: Combinable, sign: str, day: str) -> Q:
        function = "bluffside_day" if field in OWN_FIELDS else "bluffside_day_in"
        held = Func(value, function=function, output_field=TextField())
        return is_true(
            "", held, Literal(day), template="coalesce(%(expressions)s, false)", arg_joiner=f' COLLATE "C" {sign} '
        )

    # ---- deals and appointments

    def _deal(self, test: DealTest) -> Callable[[str], Q]:
        deals = Deal.objects.filter(contact=OuterRef("id"), account=self.account)
        if self.of_deal:
            deals = deals.filter(id=OuterRef(OuterRef("id")))
        if test.pipelines:
            deals = deals.filter(pipeline__in=test.pipelines)
        if test.stages:
            deals = deals.filter(stage__in=test.stages)
        if test.state != "any":
            deals = deals.filter(state=test.state)
        if test.owner:
            deals = deals.filter(owner__name=test.owner)
        if test.value:
            worth = Cast(F("value"), FloatField())
            deals = deals.filter(compared(worth, test.value.compare, Cast(Literal(test.value.amount), FloatField())))

        if test.done:
            since = _deeds(test.done.activity).filter(
                contact_id=OuterRef("contact_id"), account=self.account, at__gt=OuterRef("since"), at__lte=self.now
            )
            deals = deals.filter(how_often(since, test.done.compare, test.done.number))

        def in_zone(zone: str) -> Q:
            found = deals
            if test.age:
                found = found.filter(self._older(test.age, "created_at", zone))
            if test.in_stage:
                found = found.filter(self._older(test.in_stage, "since", zone))
            return whether(Exists(found), test.has)

        return in_zone

    def _older(self, older: Older, field: str, zone: str) -> Q:
        than = older.than
        if than.is_exact:
            return whether(Q(**{f"{field}__lt": self.now - than.length}), older.longer)
        months, days = (than.amount, 0) if than.unit == "month" else (0, than.length.days)
        since = Func(F(field), Literal(zone), Literal(months), Literal(days), function="bluffside_after",
                     output_field=DateTimeField())  # fmt: skip
        return whether(Q(LessThan(since, self._at(self.now))), older.longer)

    def _appointment(self, test: AppointmentTest) -> Q:
        ones = Appointment.objects.filter(contact=OuterRef("id"), account=self.account)
        if test.types:
            ones = ones.filter(type__in=test.types)
        if test.states:
            ones = ones.filter(state__in=test.states)
        if test.when == "to_come":
            ones = ones.filter(start__gt=self.now)
            if not test.states:
                ones = ones.filter(state__in=("booked", "confirmed"))
        elif test.when == "past":
            ones = ones.filter(start__lte=self.now)

        def within(bound: datetime | None) -> Q:
            side = "start__lte" if test.when == "to_come" else "start__gte"
            return whether(Exists(ones if bound is None else ones.filter(**{side: bound})), test.has)

        def bound(zone: str) -> datetime | None:
            if test.within is None or test.when == "any":
                return None
            return test.within.after(self.now, zone) if test.when == "to_come" else test.within.before(self.now, zone)

        return self._by_zone(bound, within)

    # ---- what happened

    def _count(self, test: CountTest) -> Q:
        kind, _ = KINDS[test.activity]
        events = self._about(_deeds(test.activity), kind, test.about)
        return self._happened(events, test.within, lambda found: how_often(found, test.compare, test.number))

    def _happened(self, events: QuerySet[Event], within: Duration | None, test: Callable[[QuerySet[Event]], Q]) -> Q:
        mine = events.filter(contact_id=OuterRef("id"), account=self.account, at__lte=self.now)
        if within is None:
            return test(mine)
        return self._by_zone(lambda zone: within.before(self.now, zone), lambda begin: test(mine.filter(at__gt=begin)))

    @staticmethod
    def _about(events: QuerySet[Event], kind: str, about: str) -> QuerySet[Event]:
        if not about:
            return events
        key = SUBJECTS.get(kind, "")
        return events.filter(**{f"data__{key}": about}) if key else events.none()
