"""Hypothesis strategies that make whole workflows of every kind of step, people of every sort, care, and histories."""

from datetime import UTC, date, datetime, time, timedelta
from decimal import Decimal
from typing import Any

from hypothesis import strategies as st

from bluffside.core.care.calendar import DaysOff, HolidayCalendar
from bluffside.core.care.house import Care
from bluffside.core.care.limits import MessageLimit
from bluffside.core.care.pause import HumanPause
from bluffside.core.care.quiet import Opening, OpeningHours, OpenOn, QuietHours
from bluffside.core.engine.signals import Happened, Replied, Signal, TimeReached
from bluffside.core.events import Event
from bluffside.core.facts import CHANNELS, PURPOSES, Account, Appointment, Consent, Contact, Deal, Facts, Member
from bluffside.core.scoring.sheet import Score
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.weekdays import WEEKDAYS
from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.files import parse_workflow
from tests.core.examples import MONDAY, divided, numbered

ZONES = ["Europe/London", "America/New_York", "Australia/Hobart", "Pacific/Auckland", "Asia/Kolkata"]
TAGS = st.sampled_from("ab")
CHANNEL = st.sampled_from(CHANNELS)
PURPOSE = st.sampled_from(PURPOSES)
DAYS = st.sets(st.sampled_from(WEEKDAYS), min_size=1).map(lambda days: [d for d in WEEKDAYS if d in days])
CLOCK = st.sampled_from(["00:00", "02:30", "09:00", "13:15", "23:59"])
LENGTH = st.builds(
    "{} {}".format, st.integers(0, 40), st.sampled_from(["seconds", "minutes", "hours", "days", "weeks"])
)
SOME_DATE = st.dates(date(2026, 1, 1), date(2026, 8, 1))
IF_PAST = st.sampled_from([None, "go_on", "next_day", "leave_out"])


def fixed(kind: str, **parts: Any) -> st.SearchStrategy[dict[str, Any]]:
    """Steps of one kind; each part is a strategy or a value."""
    given = {key: part if isinstance(part, st.SearchStrategy) else st.just(part) for key, part in parts.items()}
    return st.fixed_dictionaries({"kind": st.just(kind), **given})


# ---- conditions

simple_conditions = st.one_of(
    st.builds(lambda tag, has: {"test": "tag", "tag": tag, "has": has}, TAGS, st.booleans()),
    st.builds(
        lambda compare, value: {"test": "field", "field": "budget", "compare": compare, "value": value},
        st.sampled_from(["known", "missing", "is", "is_not", "more_than", "less_than"]),
        st.sampled_from(["10", "250"]),
    ),
    st.just({"test": "field", "field": "birthday", "compare": "in_the_next", "value": "30 days"}),
    st.just({"test": "field", "field": "interests", "compare": "any_of", "values": ["kayak", "dinghy"]}),
    st.builds(lambda channel, can: {"test": "reach", "channel": channel, "can": can}, CHANNEL, st.booleans()),
    st.builds(lambda state: {"test": "consent", "state": state}, st.sampled_from(["given", "withdrawn", "nothing"])),
    st.just({"test": "score", "compare": "at_least", "points": 10}),
    st.just({"test": "owner", "member": "Mel"}),
    st.just({"test": "list", "list": "regatta"}),
    st.builds(
        lambda has, older: {"test": "deal", "has": has, "stages": ["New"], "in_stage": {"than": older}},
        st.booleans(),
        st.sampled_from(["1 day", "2 weeks"]),
    ),
    st.just({"test": "appointment", "when": "to_come", "within": "2 days"}),
    st.just({"test": "count", "activity": "message", "compare": "fewer_than", "number": 3, "within": "30 days"}),
    st.just({"test": "message", "did": "clicked", "within": "7 days"}),
    st.just({"test": "event", "event": "form.sent", "about": "Open day", "within": None}),
    st.builds(lambda start, end: {"test": "time", "start": start, "end": end}, CLOCK, CLOCK),
    st.builds(lambda days: {"test": "weekday", "weekdays": days}, DAYS),
)
conditions = st.recursive(
    simple_conditions,
    lambda inner: st.builds(
        lambda test, of: {"test": test, "of": of},
        st.sampled_from(["all", "any", "none"]),
        st.lists(inner, min_size=1, max_size=3),
    ),
    max_leaves=4,
)

# ---- steps

text = {"name": "T", "body": 'Hi {{ contact.first_name | default: "there" }}'}
email = {"name": "E", "subject": "S", "body": "B"}
letter = {"lines": [
    {"id": "a", "kind": "paragraph", "words": 'Hi **{{ contact.first_name | default: "there" }}**'},
    {"id": "b", "kind": "button", "words": "Book", "leads_to": "{{ account.booking_link }}"},
]}  # fmt: skip
words = {"name": "W", "body": "Words"}
speaking = st.one_of(
    fixed("text", message=text, purpose=PURPOSE, held=st.booleans()),
    fixed(
        "email",
        message=st.sampled_from(
            [email, email | {"others": [{"heading": "S2", "body": "B2"}]}, email | {"letter": letter}]
        ),
        purpose=PURPOSE,
    ),
    fixed("reach", email=email, text=text, letter=st.sampled_from([None, words]), purpose=PURPOSE),
    fixed("voicemail", message=words),
    fixed("letter", message=words),
    fixed("push", message=words),
    fixed("social", message=words),
)
timed_parts: dict[str, Any] = {"weekdays": DAYS, "skip_holidays": st.booleans(), "if_past": IF_PAST}
timed = st.one_of(
    fixed("wait", duration=LENGTH, at=st.none() | CLOCK),
    fixed("wait", duration=LENGTH, at=st.none() | CLOCK, **timed_parts),
    fixed("on_day", day=st.integers(0, 30), at=CLOCK, **timed_parts),
    fixed("on_date", date=SOME_DATE.map(date.isoformat), at=CLOCK, **timed_parts),
    fixed("on_weekday", weekdays=DAYS, at=CLOCK, if_past=IF_PAST),
    fixed(
        "next_time",
        rule=st.sampled_from(
            ["FREQ=WEEKLY;BYDAY=TU", "FREQ=MONTHLY;BYMONTHDAY=31", "FREQ=DAILY;COUNT=3", "FREQ=MONTHLY;BYDAY=-1FR"]
        ),
        at=CLOCK,
        weekdays=DAYS,
    ),  # fmt: skip
    fixed("each_year", field="birthday", at=CLOCK, feb_29=st.sampled_from(["feb_28", "mar_1", "left_out"])),
    fixed("around", offset=LENGTH, side=st.sampled_from(["before", "after"]), at=st.none() | CLOCK, **timed_parts),
    fixed("around", offset=LENGTH, side=st.sampled_from(["before", "after"]), field=st.just("birthday"), **timed_parts),
)
acting = st.one_of(
    fixed("tag", tag=TAGS),
    fixed("untag", tag=TAGS),
    fixed("note", text="n"),
    fixed("set_field", field="budget", holds="number", value=st.sampled_from(["10", "250", ""])),
    fixed("set_list", list="regatta", way=st.sampled_from(["on", "off"])),
    fixed("score", points=st.integers(-20, 20), half_life=st.none() | st.just("30 days")),
    fixed("owner", assign={"to": "in_turn", "members": ["Mel", "Theo"]}),
    fixed("deal_create", pipeline="Courses", stage="New", value="240"),
    fixed("deal_move", stage=st.sampled_from(["New", "Asked"]), state=st.sampled_from(["open", "won", "lost"])),
    fixed("consent", state=st.sampled_from(["given", "withdrawn", "asked"]), channel=CHANNEL, purpose=PURPOSE),
    fixed("channel_order", order=st.lists(CHANNEL, min_size=1, max_size=3)),
    fixed("appointment", to=st.sampled_from(["confirmed", "cancelled"])),
    fixed("call", say="Hello", assign={"to": "causer"}),
    fixed("to_do", title="t"),
    fixed("own_task", title="Look at the boat"),
    fixed("print_letter", letter=words),
    fixed("notice", text="Look"),
    fixed("webhook", url="https://example.com/in", body='{"who": "{{ contact.email }}"}'),
    fixed("outside_series", service="Gull Post", name="News"),
    fixed("booking_assistant", type="Taster"),
    fixed("stop_others"),
    fixed("hand_over", workflow="another"),
    fixed("end"),
)

happenings = st.sampled_from(
    [
        {"kind": "replied"},
        {"kind": "link_clicked", "message": "E"},
        {"kind": "appointment", "what": "booked"},
        {"kind": "appointment", "what": "cancelled"},
        {"kind": "form_sent", "form": "Open day"},
        {"kind": "opted_out"},
        {"kind": "consent_given"},
        {"kind": "tag_added", "tags": ["a"]},
    ]
)


def dividing(steps: st.SearchStrategy[Any]) -> st.SearchStrategy[Any]:
    runs = st.lists(steps, max_size=3)
    choose = st.builds(
        lambda when, first, last: {"kind": "choose", "lanes": [{"when": when, "steps": first}, {"steps": last}]},
        conditions, runs, runs,
    )  # fmt: skip
    split = st.builds(
        lambda shares, one, two: {"kind": "split", "lanes": [
            {"share": shares[0], "steps": one}, {"share": shares[1], "steps": two}]},
        st.tuples(st.integers(0, 3), st.integers(0, 3)), runs, runs,
    )  # fmt: skip
    repeat = st.builds(
        lambda times, until, run: {"kind": "repeat", "times": times, "until": until, "lanes": [{"steps": run}]},
        st.integers(1, 3), st.none() | simple_conditions, st.lists(steps, min_size=1, max_size=2),
    )  # fmt: skip
    wait_for = st.builds(
        lambda limit, on, run, none: {"kind": "wait_for", "limit": limit, "lanes": [
            {"on": on, "steps": run}, *([{"steps": []}] if none else [])]},
        LENGTH, happenings, runs, st.booleans(),
    )  # fmt: skip
    return st.one_of(divided(steps), choose, split, repeat, wait_for)


steps = st.recursive(st.one_of(speaking, timed, acting), dividing, max_leaves=8)


@st.composite
def any_workflows(draw: st.DrawFn) -> Workflow:
    hours = draw(st.sampled_from([None, {"weekdays": ["mon", "wed", "fri"], "start": "09:00", "end": "12:00"}]))
    leaves = draw(st.lists(happenings, max_size=2, unique_by=lambda one: str(one)))
    made = numbered(draw(st.lists(steps, max_size=6)))
    return parse_workflow({"name": "made up", "steps": made, "hours": hours, "leaves_on": leaves})


# ---- people and care

cares = st.builds(
    Care,
    quiet=st.sampled_from([(), (QuietHours(),), (QuietHours(channels=("text",)), QuietHours(start=time(12), end=time(13)))]),
    opening=st.sampled_from([
        OpeningHours(), OpeningHours(days={"mon": (Opening(),), "thu": (Opening(),)}),
        OpeningHours(days={"wed": (Opening(),)}, exceptions=(OpenOn(day=date(2026, 3, 4)), OpenOn(day=date(2026, 3, 5), hours=(Opening(),)))),
    ]),
    holidays=st.sampled_from([
        HolidayCalendar(), HolidayCalendar(country="GB", region="ENG", own=(DaysOff(first=date(2026, 3, 4), last=date(2026, 3, 5)),), worked=("Good Friday",)),
    ]),
    pause=st.sampled_from([HumanPause(), HumanPause(shortest=5, longest=240)]),
    policy=st.sampled_from([{}, {"marketing": "ask_first"}]),
)  # fmt: skip
limited_cares = st.builds(
    lambda care, over: care.model_copy(
        update={"limits": (MessageLimit(messages=1, within=Duration(2, "day"), purposes=PURPOSES, over=over),)}
    ),
    cares,
    st.sampled_from(["wait", "leave_out"]),
)


@st.composite
def people(draw: st.DrawFn, care: Care | None = None, reachable: bool = False) -> Facts:
    """Somebody with anything or nothing; `reachable`: on every channel, for every purpose."""
    said = [] if reachable else draw(st.lists(st.tuples(CHANNEL, PURPOSE), unique=True, max_size=4))
    has = (lambda value: value) if reachable else (lambda value: draw(st.sampled_from([value, ""])))
    born = draw(st.sampled_from([None, date(1996, 2, 29), date(1980, 4, 1)]))
    start = MONDAY + timedelta(hours=draw(st.integers(-48, 24 * 20)))
    consents = (
        [Consent(channel, purpose, "given") for channel in CHANNELS for purpose in PURPOSES]
        if reachable
        else [Consent(*one, draw(st.sampled_from(["given", "withdrawn", "asked"]))) for one in said]
    )
    contact = Contact(
        first_name=draw(st.sampled_from(["Ada", "", "{{ account.name }}"])),
        email=has("ada@example.com"),
        mobile=has("+447700900123"),
        post=has("1 Quay"),
        push=has("device"),
        social=has("@ada"),
        zone=draw(st.sampled_from(["", *ZONES])),
        tags=frozenset(draw(st.sets(TAGS))),
        consents=tuple(consents),
        id=draw(st.sampled_from(["1", "2", "3"])),
        fields={"birthday": born} if born else {"budget": Decimal(120), "interests": ("kayak",)},
        channel_order=() if reachable else tuple(draw(st.lists(CHANNEL, unique=True, max_size=3))),
        score=Score().plus("before", draw(st.integers(0, 20)), MONDAY),
        deals=tuple(draw(st.lists(st.just(Deal("d", "Courses", "New", MONDAY, MONDAY)), max_size=1))),
        appointments=tuple(draw(st.lists(st.just(Appointment("v", "Taster", start)), max_size=1))),
    )
    return Facts(contact, Account("Tern", draw(st.sampled_from(ZONES)), care=care or draw(cares)), Member("Mel"))


# ---- what happens

joinings = st.datetimes(datetime(2026, 1, 1), datetime(2026, 12, 31)).map(
    lambda at: at.replace(second=0, microsecond=0, tzinfo=UTC)
)


def _event(kind: str, **data: Any) -> st.SearchStrategy[Signal]:
    return st.just(Happened(Event(kind, MONDAY, data)))


signals: st.SearchStrategy[Signal] = st.one_of(
    st.just(TimeReached()),
    st.builds(Replied, st.sampled_from(["yes", "no", "hm", "STOP"]), st.sampled_from(["text", "email"])),
    _event("link.clicked", message="E", url="https://example.com"),
    _event("form.sent", form="Open day"),
    _event("tag.added", tag="a"),
    _event("consent.withdrawn", channel="text"),
    _event("appointment.booked", appointment="w", type="Taster", start=MONDAY + timedelta(days=9)),
    _event("appointment.moved", appointment="v", type="Taster", start=MONDAY + timedelta(days=12)),
    _event("appointment.cancelled", appointment="v", type="Taster"),
    _event("field.changed", field="birthday", old="", new=date(1990, 6, 5)),
)
waits = st.integers(0, 30 * 24 * 60).map(lambda minutes: timedelta(minutes=minutes))
histories = st.lists(st.tuples(waits, signals), max_size=8)
