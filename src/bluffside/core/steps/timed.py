"""What steps that wait for a time share: the days on which they may end, and what to do when the time has
already passed. Five practices are written side by side, each a kind with its own sentence:

    wait            so long after the line before; exact when in minutes or hours
    on_day          day N from joining, at a time of day
    on_date         a calendar date; who comes later gets only what is still to come
    around          so long before or after an appointment, or a date in a field
    next_time       the next time of a rule that repeats (RFC 5545), a weekday, or a date of each year

A kind says what it aims at (`aim`); `settle` moves that to a day that is allowed and decides what becomes of
a time that is past. Every settled time carries why it is what it is.
"""

from datetime import date, datetime, time, timedelta
from typing import ClassVar, Literal, NamedTuple

from bluffside.core.document_part import fill
from bluffside.core.engine.moves import ON, OVER, Move, Stay
from bluffside.core.engine.turn import Setting, Turn
from bluffside.core.steps.base import Span, Step, When, part
from bluffside.core.timing.clock_times import ClockTime
from bluffside.core.timing.local import at_time, to_local
from bluffside.core.timing.weekdays import NAMES, WEEKDAYS, Weekdays, describe_days
from bluffside.core.words import moment, place

IfPast = Literal["go_on", "next_day", "leave_out"]
IF_PAST: dict[IfPast, str] = {
    "go_on": "goes on at once",
    "next_day": "goes on the next day at that time",
    "leave_out": "leaves out what follows",
}
LONGEST_SEARCH = 400  # days


class Aim(NamedTuple):
    """What a kind aims at: an instant and words for it ("day 5 at 09:00"). `back`: it is moved to an earlier day or
    hour, not a later one. `deadline`: what it reminds of begins then. `fixed`: it does not depend on when the
    line was reached. `why`: why it is another day than one may think."""

    at: datetime
    words: str
    fixed: bool = True
    back: bool = False
    deadline: datetime | None = None
    why: tuple[str, ...] = ()


class Settled(NamedTuple):
    """When to go on (None: leave out what follows), and why, as clauses in order."""

    at: datetime | None
    why: tuple[str, ...]
    deadline: datetime | None = None

    def describe(self) -> str:
        return "; ".join(self.why)


class Timed(Step):
    """`weekdays` and `skip_holidays` (of the account's calendar): the days on which it may end."""

    waits = "time"
    comes_once: ClassVar[bool] = False  # whether it is the same moment however often it is reached
    follows: ClassVar[bool] = False  # whether what it goes by may move, so that it is planned anew
    when_past: ClassVar[IfPast] = "go_on"
    picks_days: ClassVar[bool] = False  # whether its weekdays are what it aims at, not what moves it

    at: ClockTime | None = part("time", "time of day", empty="any time", clause="at {}", default=None)
    weekdays: Weekdays = part("weekdays", "on which weekdays", clause="only on {}", default=WEEKDAYS)
    skip_holidays: bool = part("yes-no", "not on public holidays", clause="not on public holidays", default=False)
    if_past: IfPast | None = part(
        "choice",
        "when the time has passed already",
        empty="as usual for such a line",
        words=IF_PAST,
        clause="if that has passed, {}",
        default=None,
    )

    def aim(self, reached: datetime, setting: Setting) -> Aim | None:
        """What it aims at when reached at an instant; None when there is nothing to aim at."""
        raise NotImplementedError

    def goes_by(self) -> str:
        """What of the contact's its time goes by ("the appointment"), if it does."""
        return ""

    def planned_by(self, setting: Setting) -> str:
        """The date it goes by and that may move, as State.planned names it; empty where it goes by none."""
        return ""

    def starts(self, setting: Setting) -> datetime | None:
        """When that date comes."""
        return None

    def nothing_to_aim_at(self) -> str:
        return "There is no date to go by"

    @property
    def past_rule(self) -> IfPast:
        return self.if_past or self.when_past

    def stands_for(self) -> dict[str, str]:
        return {"if_past": IF_PAST[self.past_rule]} if self.can_be_past() else {}

    def describe(self) -> str:
        said = self.said() + self.days_words()
        if self.skip_holidays:
            said += ", not on public holidays"
        if self.can_be_past():
            said += f"; {self.past_words()}"
        return f"{said}."

    def said(self) -> str:
        """What it waits for, without the days it keeps to and what has passed."""
        return fill(self, self.sentence).removesuffix(".")

    def days_words(self) -> str:
        return f", only on {describe_days(self.weekdays)}" if len(self.weekdays) < 7 else ""

    def past_words(self) -> str:
        return f"if that has passed, {IF_PAST[self.past_rule]}"

    def can_be_past(self) -> bool:
        return True

    def is_gone(self, at: datetime, reached: datetime, setting: Setting) -> bool:
        """Whether a time that has passed is gone for good, whatever `if_past` says of one that has just passed."""
        return False

    def may_leave_out(self) -> bool:
        return self.can_be_past() and self.past_rule == "leave_out"

    # ---- settling

    def settle(self, reached: datetime, setting: Setting, past_is_left_out: bool = False) -> Settled:
        """`past_is_left_out`: whatever is chosen for a time that has passed."""
        aim = self.aim(reached, setting)
        if aim is None:
            return Settled(None, (self.nothing_to_aim_at(),))
        at, why = self._on_allowed_day(aim.at, aim.back, setting)
        why = [aim.words, *aim.why, *why]
        if aim.back:
            allowed = setting.last_allowed(at)
            if allowed != at:
                why.append(f"moved back to {moment(allowed, setting.zone, reached)}: outside the hours for sending")
                at = allowed
        if at < reached:
            return self._when_past(at, reached, aim, why, setting, past_is_left_out)
        why.append(f"{to_local(at, setting.zone):%H:%M} {place(setting.zone)}")
        return Settled(at, tuple(why), aim.deadline)

    def _when_past(
        self, at: datetime, reached: datetime, aim: Aim, why: list[str], setting: Setting, left_out: bool
    ) -> Settled:
        why = [*why, f"that was {moment(at, setting.zone, reached)} and has passed"]
        too_late = aim.deadline is not None and aim.deadline <= reached
        if left_out or self.past_rule == "leave_out" or too_late or self.is_gone(at, reached, setting):
            return Settled(None, (*why, IF_PAST["leave_out"]))
        if self.past_rule == "go_on":
            later, moved = self._on_allowed_day(reached, False, setting)
        else:
            local = to_local(at, setting.zone).time()
            day = to_local(reached, setting.zone).date()
            later = at_time(day, local, setting.zone)
            if later < reached:
                later = at_time(day + timedelta(days=1), local, setting.zone)
            later, moved = self._on_allowed_day(later, False, setting)
        if aim.deadline and later >= aim.deadline:
            return Settled(None, (*why, "the next time would be too late", IF_PAST["leave_out"]))
        why += [IF_PAST[self.past_rule], *moved, f"{to_local(later, setting.zone):%H:%M} {place(setting.zone)}"]
        return Settled(later, tuple(why), aim.deadline)

    def _on_allowed_day(self, at: datetime, back: bool, setting: Setting) -> tuple[datetime, list[str]]:
        """The instant at the same time of day on the nearest allowed day, and why it was moved."""
        if len(self.weekdays) == 7 and not self.skip_holidays:
            return at, []
        local = to_local(at, setting.zone)
        step = timedelta(days=-1 if back else 1)
        day, moved = local.date(), list[str]()
        began, why = day, self._why_not_on(day, setting)
        for _ in range(LONGEST_SEARCH if why else 0):
            day += step
            now = self._why_not_on(day, setting)
            if now != why:
                moved.append(f"moved from {began:%a} to {day:%a}: {why}")
                began, why = day, now
            if not why:
                break
        return (at_time(day, local.time(), setting.zone), moved) if moved else (at, [])

    def _why_not_on(self, day: date, setting: Setting) -> str:
        if WEEKDAYS[day.weekday()] not in self.weekdays:
            weekend = day.weekday() >= 5 and self.weekdays == WEEKDAYS[:5]
            return "weekends excluded" if weekend else f"{NAMES[WEEKDAYS[day.weekday()]]} excluded"
        holiday = setting.care.holidays.holiday(day) if self.skip_holidays else ""
        return f"{holiday} excluded" if holiday else ""

    # ---- what it does

    def begin(self, turn: Turn) -> Move:
        if self.follows:
            turn.plans_by(self.planned_by(turn.setting))
        settled = self.settle(turn.now, turn.setting)
        turn.deadline = settled.deadline
        if settled.at is None:
            turn.because("{}.", settled.describe())
            return OVER
        if settled.at <= turn.now:
            turn.because("Goes on at once: {}.", settled.describe())
            return ON
        turn.because("Waits until {}: {}.", settled.at, settled.describe())
        return Stay(settled.at)

    # ---- when, without running it

    def when(self, reached: Span, setting: Setting) -> When:
        """Bounds: a settled time never comes earlier for who is later, unless what follows is left out."""
        early, late = self.aim(reached.earliest, setting), self.aim(reached.latest, setting)
        if early is None:
            return When(None, None, {}, reached)
        first = self.settle(reached.earliest, setting).at
        last = self.settle(reached.latest, setting).at if late else None
        over = reached if first is None or last is None else None
        if first is None and last is None and early.fixed:
            return When(None, None, {}, over)
        if last is None:
            last = self._latest(late or early, reached, setting)
        first = min(first or reached.earliest, last)
        acts = Span(first, max(first, last))
        return When(acts, acts, {}, over)

    def _latest(self, aim: Aim, reached: Span, setting: Setting) -> datetime:
        """The latest it can act, where the last to reach it would leave out what follows."""
        target = self._on_allowed_day(aim.at, aim.back, setting)[0]
        if aim.fixed:
            return max(target, aim.deadline or target)
        return max(target, reached.latest + timedelta(days=8))


def is_to_come(at: datetime, reached: datetime, setting: Setting) -> bool:
    """Whether a moment of those that repeat is still to come; one that is now was taken by the pass before."""
    return at > reached or (at == reached and not setting.later_pass)


NINE = time(9)
