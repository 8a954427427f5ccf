"""Checks that need to know the account: its house rules and people, what is named, the other workflows."""

from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from datetime import datetime, timedelta
from itertools import pairwise

from bluffside.core.engine.turn import Setting
from bluffside.core.messages.merge import booking_path, detail_path, is_known, own_path, uses
from bluffside.core.statistics.added import people_until
from bluffside.core.steps.base import Mend
from bluffside.core.steps.hand_over import SendOn
from bluffside.core.steps.on_date import OnDate
from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import CHANNEL_KINDS
from bluffside.core.timing.local import to_local
from bluffside.core.words import day, moment, several
from bluffside.core.workflow.check import Check, Severity
from bluffside.core.workflow.document import Workflow, runs, walk
from bluffside.core.workflow.graph import going_round
from bluffside.core.workflow.house import A_MONDAY, House, People
from bluffside.core.workflow.house_rules import house_rule_checks
from bluffside.core.workflow.library import said_by
from bluffside.core.workflow.references import references
from bluffside.core.workflow.timeline import time_line

TELLING, MONTHS = 0.1, 12  # to so much either way, within so long
A_YEAR_ON = A_MONDAY + timedelta(days=365)


def check_in_house(workflow: Workflow, house: House) -> list[Check]:
    found = [
        *house_rule_checks(workflow, house),
        *_hours_left(workflow, house),
        *_names(workflow, house),
        *_connections(workflow, house),
    ]
    found += _handing_over(workflow, house)
    found += [*_library(workflow, house), *_commercial(workflow, house), *_other_clients(workflow, house)]
    found += _files_gone(workflow, house)
    if house.people:
        found += _people(workflow, house.people)
    found += [*_lost_behind(workflow, house), *_held_back(workflow, house)]
    if house.now:
        found += _dates_passed(workflow, house.now, house.zone)
    others = house.others or ()
    return [*found, *_loops(workflow, others), *_same_people(workflow, others, house.zone)]


def _held_back(workflow: Workflow, house: House) -> Iterator[Check]:
    """People held back where too few come to tell anything by them within a year."""
    one_in = workflow.entry.hold_back
    if not one_in or house.arrivals is None:
        return
    needed = people_until(TELLING, house.usual / 100, 1 / one_in)
    months = needed / house.arrivals if needed and house.arrivals else None
    if months is None or months > MONTHS:
        a_month, points = f"{round(house.arrivals)} a month", round(100 * TELLING)
        long = f"in {round(months / 12)} years" if months and months < 240 else "never"
        sentence = (
            f"1 in {one_in} is held back, at {a_month}: what it adds is known to {points} in 100 either way {long}."
        )
        mend = None
        if one_in > 2 and house.arrivals and (fair := people_until(TELLING, house.usual / 100, 0.5)):
            sentence += f" With 1 in 2 held back that takes {round(fair / house.arrivals)} months."
            entry = workflow.entry.model_copy(update={"hold_back": 0}).model_dump(mode="json")
            mend = Mend("Hold nobody back", "set_workflow", "entry", entry)
        yield Check("held-back-too-long", "", "warning", sentence, mend)


def _hours_left(workflow: Workflow, house: House) -> Iterator[Check]:
    """Sending hours that the account's quiet hours leave nothing of."""
    setting = Setting(house.zone, workflow.hours, house.care)
    for step in walk(workflow.steps):
        if isinstance(step, Speaking) and not step.held and workflow.hours:
            channels = tuple(step.versions())
            if channels and all(setting.next_allowed(A_MONDAY, one, step.purpose) > A_YEAR_ON for one in channels):
                mend = Mend("Send at any hour that is not quiet", "set_workflow", "hours", None)
                sentence = f"“{step.title}” never goes out: all its sending hours are quiet hours of the account."
                yield Check("no-hour-left", step.id, "error", sentence, mend)


def _dates_passed(workflow: Workflow, now: datetime, zone: str) -> Iterator[Check]:
    today = to_local(now, zone).date()
    for step in walk(workflow.steps):
        if isinstance(step, OnDate) and step.date and step.date < today:
            sentence = f"{day(step.date)} has passed: who joins from now on does not get what follows."
            yield Check("date-passed", step.id, "warning", sentence)


def _lost_behind(workflow: Workflow, house: House) -> Iterator[Check]:
    """Dated lines that have passed once the dated line above has been pushed to a later day."""
    for run in runs(workflow.steps):
        dated = [step for step in run if isinstance(step, OnDate) and step.date]
        for above, below in pairwise(dated):
            setting = Setting(house.zone, workflow.hours, house.care)
            aim, then = above.aim(A_MONDAY, setting), below.aim(A_MONDAY, setting)
            if aim is None or then is None or then.at < aim.at:
                continue
            allowed = above.settle(aim.at, setting)
            late = above.settle(aim.at + timedelta(seconds=1), setting)
            if allowed.at and below.settle(allowed.at, setting).at is None:
                why = f": {allowed.why[1]}" if len(allowed.why) > 2 else ""
                sentence = f"“{above.said()}” comes {moment(allowed.at, house.zone, A_MONDAY)}{why}. This has passed then, and what follows is left out."
                yield Check("lost-behind", below.id, "warning", sentence)
            elif late.at and below.settle(late.at, setting).at is None:
                sentence = (
                    f"Who comes too late for “{above.said()}” goes on {moment(late.at, house.zone, A_MONDAY)}. "
                    "This has passed then, and what follows is left out."
                )
                yield Check("lost-behind", below.id, "warning", sentence)


def _names(workflow: Workflow, house: House) -> Iterator[Check]:
    """Forms, sources and tags that nobody comes by, fields, lists and workflows there are not."""
    everywhere = (workflow, *(house.others or ()))
    here = references(workflow)
    set_here: dict[str, set[str]] = defaultdict(set)
    for ref in (*here, *(ref for other in house.others or () for ref in references(other))):
        if ref.sets:
            set_here[ref.kind].add(ref.name)
    known: dict[str, frozenset[str] | None] = {
        "form": house.forms,
        "source": house.sources,
        "field": None if house.fields is None else house.fields | set_here["field"],
        "list": house.lists,
        "tag": None if house.tags is None else house.tags | set_here["tag"],
        "detail": house.details,
        "appointment": house.types,
        "booking page": house.booking_pages,
        "workflow": None if house.others is None else frozenset(one.name for one in everywhere),
    }
    said = {
        "form": "There is no form “{}”, so nobody sends it.",
        "source": "There is no source of leads “{}”, so nobody comes from it.",
        "field": "There is no field “{}”.",
        "list": "There is no list “{}”.",
        "detail": "The business has no detail “{}”: nothing stands there.",
        "appointment": "There is no type of appointment “{}”, so nobody books one.",
        "booking page": "“{}” has no open page to book on: nothing stands there.",
        "tag": "Nobody has the tag “{}”, and nothing sets it.",
        "workflow": "There is no workflow “{}”.",
    }
    paths = {own_path(name) for name in known["field"] or ()}  # as messages say them
    paths |= {detail_path(name) for name in known["detail"] or ()}
    paths |= {booking_path(name) for name in known["booking page"] or ()}
    path_of: dict[str, Callable[[str], str]] = {"field": own_path, "detail": detail_path, "booking page": booking_path}
    told: set[tuple[str, str, str]] = set()
    for ref in here:
        names, key = known.get(ref.kind), (ref.kind, ref.name, ref.step)
        if names is None or ref.sets or ref.name in names or key in told:
            continue
        if ref.kind in path_of and path_of[ref.kind](ref.name) in paths:
            continue
        told.add(key)
        if ref.kind == "workflow" and ref.name in house.drafts:
            sentence = f"“{ref.name}” is not published yet: until it is, nobody comes into it."
            yield Check("not-published", ref.step, "warning", sentence)
            continue
        severity: Severity = "error" if ref.kind in ("list", "workflow") else "warning"
        yield Check(f"no-such-{ref.kind.replace(' ', '-')}", ref.step, severity, said[ref.kind].format(ref.name))


def _library(workflow: Workflow, house: House) -> Iterator[Check]:
    """Messages of the library that are not published, or not there."""
    for name, step in said_by(workflow) if house.library is not None else ():
        if name not in (house.library or ()):
            sentence = f"“{name}” of the library is not published: the line would say what it said last."
            own = Mend("Say it as this line’s own", "set", "library", "")
            yield Check("no-such-message", step, "error", sentence, own)


def _files_gone(workflow: Workflow, house: House) -> Iterator[Check]:
    """Files to go with an email that are not here: taken away, or of the account that the file came from."""
    for step in walk(workflow.steps) if house.files is not None else ():
        for wording in step.versions().values() if isinstance(step, Speaking) else ():
            for one in wording.files:
                if one.digest not in (house.files or ()):
                    said = f"“{one.name}” is to go with “{wording.name}” and is not here: attach it anew."
                    yield Check("no-such-file", step.id, "error", said)


def _commercial(workflow: Workflow, house: House) -> Iterator[Check]:
    """Marketing by email names the sender's postal address (US: 15 U.S.C. 7704(a)(5)(A)(iii)); it stands under each, where there is one."""
    if house.postal_address is None or house.postal_address.strip():
        return
    for step in walk(workflow.steps):
        if isinstance(step, Speaking) and step.purpose == "marketing" and "email" in step.versions():
            sentence = f"“{step.title}” is marketing, and the business has no postal address to stand under it (Set-up, The business)."
            yield Check("no-postal-address", step.id, "warning", sentence)


def _other_clients(workflow: Workflow, house: House) -> Iterator[Check]:
    """Words that were written for another client."""
    for step in walk(workflow.steps) if house.clients else ():
        if not isinstance(step, Speaking):
            continue
        said = "\n".join(text for one in step.versions().values() for text in one.texts()).casefold()
        for name in sorted(house.clients):
            if name.casefold() in said and name.casefold() != house.business.casefold():
                yield Check("another-client", step.id, "warning", f"“{step.title}” names “{name}”, another client.")


def _handing_over(workflow: Workflow, house: House) -> Iterator[Check]:
    """Hand-overs to workflows that do not start that way."""
    taken_over = {
        other.name: any("workflow.handed_over" in start.listens_to for start in other.starts)
        for other in house.others or ()
    }
    for step in walk(workflow.steps):
        if isinstance(step, SendOn) and not taken_over.get(step.workflow, True):
            sentence = f"“{step.workflow}” does not start when someone is handed over."
            yield Check("not-taken-over", step.id, "error", sentence)


def _connections(workflow: Workflow, house: House) -> Iterator[Check]:
    """Lines that need a connection which does not work: an error where nothing else would do; and where nobody comes in."""
    for step in walk(workflow.steps):
        needed = list(step.connections())
        for one in needed:
            if trouble := house.out_of_order.get(one):
                stops = trouble.stops and len(needed) == 1
                yield Check("not-connected", step.id, "error" if stops else "warning", trouble.why)
    for name in sorted({ref.name for ref in references(workflow) if ref.kind == "source"}):
        if trouble := house.out_of_order.get(("source", name)):
            yield Check("not-connected", "", "warning", trouble.why)


def _people(workflow: Workflow, people: People) -> Iterator[Check]:
    """People without an address or consent, and merge fields without values, counted; each at the first line that would
    need them."""
    told: set[tuple[str, str]] = set()
    for step in walk(workflow.steps):
        if not isinstance(step, Speaking):
            continue
        versions = step.versions()
        channel = next(iter(versions), None)
        if channel and len(versions) == 1 and ("", channel) not in told and (beyond := people.beyond.get(channel, 0)):
            told.add(("", channel))
            sentence = f"{beyond} of {people.count} cannot be reached by {channel} ({CHANNEL_KINDS[channel].no_address}, or opted out)."
            yield Check("beyond-reach", step.id, "warning", sentence)
        texts = [text for one in versions.values() for text in one.texts()]
        paths = dict.fromkeys(use.path for text in texts for use in uses(text) if not use.words)
        for path in paths:
            if ("field", path) not in told and (empty := people.empty.get(path, 0)):
                told.add(("field", path))
                label = is_known(path) or path
                sentence = f"{empty} of {people.count} have no {label}, which “{step.title}” uses."
                yield Check("merge-field-empty", step.id, "warning", sentence)


def leads_to(workflow: Workflow, others: Sequence[Workflow]) -> set[str]:
    """The names of the workflows that something this one does may start."""
    brought = {pair for step in walk(workflow.steps) for pair in step.brings()}
    names = {subject for kind, subject in brought if kind == "workflow.handed_over"}
    for other in others:
        for start in other.starts:
            for kind, subject in brought:
                if kind in start.listens_to and kind != "workflow.handed_over" and _meets(subject, start.subjects()):
                    names.add(other.name)
    return names


def _meets(subject: str, subjects: Sequence[str]) -> bool:
    return "" in subjects or subject in subjects or (subject == "" and bool(subjects))


def _loops(workflow: Workflow, others: Sequence[Workflow]) -> Iterator[Check]:
    """Workflows that start one another in a circle that this one is part of, and that people may go round again."""
    again = [one for one in (workflow, *others) if one.entry.again != "never"]
    if workflow not in again:
        return
    names = {one.name for one in again}
    ways = {one.name: leads_to(one, again) & names for one in again}
    if workflow.name in ways[workflow.name]:
        sentence = "What it does starts it again for the same people."
        yield Check("starts-itself", "", "warning", sentence, _nobody_twice(workflow))
        ways[workflow.name] = ways[workflow.name] - {workflow.name}
    reach = _reached(ways, workflow.name)
    back = {name for name in reach if workflow.name in _reached(ways, name)}
    if back:
        round_ = going_round({name: ways[name] & (back | {workflow.name}) for name in (*back, workflow.name)})
        way = " → ".join(f"“{name}”" for name in round_)
        sentence = f"Workflows that start one another go round: {way}. A chain ends after 8."
        yield Check("loop-between", "", "warning", sentence, _nobody_twice(workflow))


def _nobody_twice(workflow: Workflow) -> Mend:
    entry = workflow.entry.model_copy(update={"again": "never", "after": None})
    return Mend("Let nobody come in twice", "set_workflow", "entry", entry.model_dump(mode="json"))


def _reached(ways: dict[str, set[str]], start: str) -> set[str]:
    found: set[str] = set()
    waiting = list(ways.get(start, ()))
    while waiting:
        name = waiting.pop()
        if name not in found:
            found.add(name)
            waiting += ways.get(name, ())
    return found


def _days_spoken(workflow: Workflow, zone: str) -> set[int]:
    """The days, counted from joining, on which it may send a message."""
    line = time_line(workflow, A_MONDAY, zone)
    days: set[int] = set()
    for step in walk(workflow.steps):
        acts = line.lines[step.id].acts if step.id in line.lines else None
        if acts and isinstance(step, Speaking):
            days |= {line.day(acts.earliest), line.day(acts.latest)}
    return days


def _same_people(workflow: Workflow, others: Sequence[Workflow], zone: str) -> Iterator[Check]:
    """Other workflows that start on the same thing and speak on the same days after it."""
    starts = {(kind, name) for one in workflow.starts for kind in one.listens_to for name in one.subjects()}
    if not starts:
        return
    days = _days_spoken(workflow, zone)
    for other in others:
        theirs = {(kind, name) for one in other.starts for kind in one.listens_to for name in one.subjects()}
        same = sorted(days & _days_spoken(other, zone)) if starts & theirs else []
        if same and other.name != workflow.name:
            on = f"{'day' if len(same) == 1 else 'days'} {several([str(one) for one in same[:5]])}"
            sentence = f"“{other.name}” starts on the same and speaks to the same people on {on}."
            yield Check("same-people", "", "warning", sentence)
