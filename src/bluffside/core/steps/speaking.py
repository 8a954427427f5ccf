"""What steps that speak to the contact share: channels and consent, quiet hours, limits, pauses, faults.

In this order, each with its reason:
  1. no channel is open (no address, opted out): passed over;
  2. what it reminds of has begun: passed over;
  3. held for a person: handed out now, marked as held, and stays here until the person has decided: what follows counts
     from when it goes, and one that is not to go takes along what follows up on it, to the next line that waits for a time;
  4. all sending of the account is stopped: stays until somebody has decided, after it was lifted, whether it goes;
  5. what they wrote may mean that they want no more: marketing stays until somebody has looked;
  6. the contact asked for quiet for some weeks: marketing stays until they are over;
  7. outside the sending hours, or in quiet hours: stays until they are over, and looks again at everything then;
     passed over when that would be longer than LONGEST_HOLD;
  8. over a message limit: stays until one more may go, or is passed over, as the limit says;
  9. a human pause after the line was reached, or after the hours opened;
 10. sent.
"""

from collections.abc import Iterator, Mapping
from datetime import datetime, timedelta
from functools import cached_property

from bluffside.core.care.pause import share_of
from bluffside.core.channel_kinds.wording import Wording, wordings_in
from bluffside.core.channels.reach import choose
from bluffside.core.conditions import Need
from bluffside.core.engine.effects import CallOff, SendMessage
from bluffside.core.engine.moves import ON, OVER, Move, Stay
from bluffside.core.engine.turn import NEVER, Setting, Turn
from bluffside.core.events import Event
from bluffside.core.letters.compiling import addressed
from bluffside.core.message_checks import faults_of
from bluffside.core.messages.merge import faults, is_known, uses
from bluffside.core.steps.base import Fault, Mend, Span, Step, When, part
from bluffside.core.terms import Channel, Purpose

LONGEST_HOLD = timedelta(days=14)
PURPOSE_WORDS = {"marketing": "marketing", "service": "a service message"}
MOVES = frozenset({"appointment.moved", "appointment.cancelled"})
QUIET, READ = "quiet.changed", "reply.read"
LET_GO, DROPPED = "message.let_go", "message.dropped"
DECIDED = "sending.decided"  # what fell due while sending was stopped: `goes` or not


class Speaking(Step):
    """`purpose` decides by which consent and in which hours it goes; `held`: a person lets it go."""

    who = "account"

    sender: str = part("sender", "from", empty="the usual sender", clause="from {}", default="", max_length=200)
    purpose: Purpose = part(
        "choice", "purpose", words=PURPOSE_WORDS, clause="as {}, by service consent", default="marketing"
    )
    held: bool = part("yes-no", "held for a person", clause="held until somebody lets it go", default=False)
    library: str = part("library", "message of the library", clause="from the library", default="", max_length=120)

    def versions(self) -> Mapping[Channel, Wording]:
        """The message's wording for each channel it can go by."""
        raise NotImplementedError

    @cached_property
    def title(self) -> str:
        return next((one.name for one in self.versions().values() if one.name), self.label)

    def connections(self) -> Iterator[tuple[str, str]]:
        yield from (("channel", channel) for channel in self.versions())

    def begin(self, turn: Turn) -> Move:
        contact, care, versions = turn.facts.contact, turn.facts.account.care, self.versions()
        choice = choose(contact, tuple(versions), self.purpose, care, turn.now)
        if choice.channel is None:
            why = choice.describe() if len(versions) > 1 else choice.weighed[0].closed
            closed: dict[str, str] = {one.channel: one.closed for one in choice.weighed}
            turn.because("Passed over “{}”: {}.", self.title, why, seen=closed)
            return ON
        if turn.deadline and turn.now >= turn.deadline:
            turn.because("Passed over “{}”: what it reminds of began {}.", self.title, turn.deadline)
            return ON
        wait = None if self.held else self._wait(turn, choice.channel)
        if wait is not None:
            return wait
        wording = versions[choice.channel]
        step, round = turn.key
        number = self._wording_for(turn, wording)
        heading, body, letter = wording.in_turn(number)
        turn.do(
            SendMessage(
                step,
                round,
                choice.channel,
                self.title,
                turn.render(heading) if heading else "",
                turn.render(body),
                self.purpose,
                self.held,
                self.sender,
                addressed(letter, turn.render) if letter else None,
                wording.head_for(turn.render, turn.setting.care.link_tags),
                wording.key_of(number) if wording.others else "",
            )
        )
        seen = {"to": contact.address(choice.channel)}
        if wording.others:
            seen["wording"] = f"{number + 1} of {len(wording.others) + 1}"
        verb = "Holds" if self.held else "Sends"
        if len(versions) > 1:
            turn.because("{} “{}” by {} ({}).", verb, self.title, choice.channel, choice.describe(), seen=seen)
        else:
            turn.because("{} “{}” by {}.", verb, self.title, choice.channel, seen=seen)
        return Stay(turn.deadline or NEVER) if self.held else ON

    def _wording_for(self, turn: Turn, wording: Wording) -> int:
        """The number of the wording that the contact reads: by shares always the same of this message, else the next after those they had, in
        any enrolment."""
        if not wording.others:
            return 0
        if wording.by_share:
            return wording.by_its_share(share_of("wording", self.title, turn.facts.contact.id))
        happened = turn.facts.contact.happened
        had = sum(event.kind == "message.sent" and event.data.get("message") == self.title for event in happened)
        return had % (len(wording.others) + 1)

    def wake(self, turn: Turn) -> Move:
        if not self.held:
            return self.begin(turn)
        if turn.deadline and turn.now >= turn.deadline:
            turn.do(CallOff(*turn.key, "nobody let it go before what it reminds of", (self.id,)))
            turn.because("“{}” is not to go any more: what it reminds of began {}.", self.title, turn.deadline)
        return ON

    def _decided(self, turn: Turn, event: Event) -> Move | None:
        """Somebody lets a message go that this line holds, or decides that it is not to go."""
        if (event.data["step"], event.data["round"]) != turn.key:
            return None
        by = event.by or "the team"
        if event.kind == DROPPED:
            turn.because("“{}” is not to go, says {}: what follows up on it is left out.", self.title, by)
            return OVER
        goes = event.data["goes"]
        if goes > turn.now:
            turn.because("{} lets “{}” go: it goes {}.", by, self.title, goes)
            return Stay(goes)
        turn.because("{} lets “{}” go.", by, self.title)
        return ON

    def _stopped(self, turn: Turn) -> Move:
        turn.stopped = True
        return Stay(turn.deadline or NEVER)

    def _after_the_stop(self, turn: Turn, event: Event) -> Move:
        by = event.by or "the team"
        if event.data["goes"]:
            turn.because("It goes although it fell due while sending was stopped, says {}.", by)
            return self.begin(turn)
        turn.because("“{}” is not to go after the stop, says {}: what follows up on it is left out.", self.title, by)
        return OVER

    def notice(self, turn: Turn, event: Event) -> Move | None:
        """What it reminds of may move, or be cancelled, while the message is held by the hours; and the contact may end
        the quiet they asked for."""
        if event.kind in (LET_GO, DROPPED):
            return self._decided(turn, event)
        if event.kind == DECIDED:
            return self._after_the_stop(turn, event) if turn.state.stopped else None
        if event.kind in (QUIET, READ):
            waits_for_it = self.purpose == "marketing" and not self.held and not turn.state.stopped
            return self.begin(turn) if waits_for_it else None
        standing = {one.start for one in turn.facts.contact.appointments if one.to_come}
        if event.kind not in MOVES or turn.deadline is None or turn.deadline in standing:
            return None
        if event.kind == "appointment.cancelled":
            turn.because("Passed over “{}”: what it reminds of is cancelled.", self.title)
            return ON
        start = event.data.get("start")
        turn.deadline = start if isinstance(start, datetime) else turn.deadline
        turn.because("What “{}” reminds of has moved to {}.", self.title, turn.deadline)
        return self._stopped(turn) if turn.state.stopped else self.begin(turn)

    def hears(self) -> frozenset[str]:
        return MOVES | {QUIET, READ, LET_GO, DROPPED}

    # ---- when it may go

    def _wait(self, turn: Turn, channel: Channel) -> Move | None:
        """Staying, or being passed over, for the hours, the limits or the pause; None when it may go now."""
        if turn.facts.account.stopped:
            turn.because("Holds “{}”: {}.", self.title, turn.facts.account.stopped)
            return self._stopped(turn)
        if self.purpose == "marketing" and channel in turn.facts.contact.held:
            turn.because(
                "Holds “{}”: what they wrote by {} may mean that they want no more, and nobody has looked yet.",
                self.title,
                channel,
            )
            return self._stay(turn, NEVER)
        quiet = turn.facts.contact.paused_until
        if self.purpose == "marketing" and quiet and quiet > turn.now:
            later = turn.setting.next_allowed(quiet, channel, self.purpose)
            turn.because("Holds “{}” until {}: the contact asked for quiet until then.", self.title, later)
            return self._stay(turn, later)
        pause = turn.setting.care.pause.for_key(turn.facts.contact.id, *turn.key)
        allowed = turn.setting.next_allowed(turn.now, channel, self.purpose)
        since = max(turn.arrived, quiet) if self.purpose == "marketing" and quiet else turn.arrived
        if allowed - since > LONGEST_HOLD:
            turn.because("Passed over “{}”: there is no hour at which it may go out.", self.title)
            return ON
        if allowed > turn.now:
            later = turn.setting.next_allowed(allowed + pause, channel, self.purpose)
            why = turn.setting.why_not_now(turn.now, channel, self.purpose)
            turn.because("Holds “{}” until {}: {}.", self.title, later, why)
            return self._stay(turn, later)
        for limit in turn.setting.care.limits:
            if not limit.concerns(channel, self.purpose):
                continue
            free = limit.free_at(turn.now, turn.facts.contact.happened, turn.zone)
            if free <= turn.now:
                continue
            if limit.over == "leave_out" or free - since > LONGEST_HOLD:
                turn.because("Passed over “{}”: {}, and one more would be too many.", self.title, limit.describe())
                return ON
            later = turn.setting.next_allowed(free, channel, self.purpose)
            turn.because("Holds “{}” until {}: {}.", self.title, later, limit.describe())
            return self._stay(turn, later)
        if turn.now < turn.arrived + pause:
            until = turn.setting.next_allowed(turn.arrived + pause, channel, self.purpose)
            turn.because("Pauses {} seconds before “{}”.", int(pause.total_seconds()), self.title)
            return self._stay(turn, until)
        return None

    def _stay(self, turn: Turn, until: datetime) -> Move:
        if turn.deadline and until >= turn.deadline:
            turn.because("Passed over “{}”: what it reminds of begins {}.", self.title, turn.deadline)
            return ON
        return Stay(until)

    def when(self, reached: Span, setting: Setting) -> When:
        """For who can be reached, with pauses and hours. Message limits depend on other workflows: they are left out."""
        if self.held:
            return When(reached, reached)
        pause = timedelta(seconds=setting.care.pause.longest)
        channels: tuple[Channel, ...] = tuple(self.versions()) or ("text",)
        first = min(setting.next_allowed(reached.earliest, one, self.purpose) for one in channels)
        if first - reached.earliest > LONGEST_HOLD:
            return When(None, reached)
        last = max(self._latest(reached.latest, pause, setting, one) for one in channels)
        acts = Span(first, last)
        return When(acts, acts)

    def _latest(self, reached: datetime, pause: timedelta, setting: Setting, channel: Channel) -> datetime:
        opens = setting.next_allowed(reached, channel, self.purpose)
        return setting.next_allowed(opens + pause, channel, self.purpose) if pause else opens

    def may_leave_out(self) -> bool:
        return self.held

    def needs(self) -> frozenset[Need]:
        turns = any(one.others and not one.by_share for one in self.versions().values())
        return frozenset({"consents", "happened"}) if turns else frozenset({"consents"})

    def brings(self) -> Iterator[tuple[str, str]]:
        yield "message.sent", self.title

    def faults(self) -> Iterator[Fault]:
        for wording in self.versions().values():
            name = wording.name or self.title
            if not wording.body.strip():
                yield Fault("message-empty", "error", f"“{name}” has no words yet.")
            if any(not other.body.strip() for other in wording.others):
                yield Fault("message-empty", "error", f"Another wording of “{name}” has no words yet.")
            for fault in dict.fromkeys(wording.faults()):
                yield Fault("letter-incomplete", "warning", f"“{name}”: {fault[0].lower()}{fault[1:]}")
            for text in wording.texts():
                for fault in faults(text):
                    yield Fault("message-unreadable", "error", f"“{name}” {fault}.")
        yield from self._empty_lines()
        yield from self._empty_merge_fields()
        for path, wording in wordings_in(self):
            for found in faults_of(wording, wording.name or self.title, self.purpose):
                mend = Mend(found.mend, "set", f"{path}.{found.field}", found.value) if found.mend else None
                yield Fault(found.code, "warning", found.sentence, mend)

    def _empty_lines(self) -> Iterator[Fault]:
        """Lines that a channel's messages cannot do without."""
        for path, wording in wordings_in(self):
            named = wording.name
            for line in wording.wants:
                if not str(getattr(wording, line)).strip():
                    mend = Mend(f"Use “{named}” as the {line}", "set", f"{path}.{line}", named) if named else None
                    yield Fault(f"{line}-empty", "error", f"“{named or self.title}” has no {line} yet.", mend)

    def _empty_merge_fields(self) -> Iterator[Fault]:
        for path, wording in wordings_in(self):
            for field in ("subject", "title", "body"):
                text = getattr(wording, field, "")
                for use in uses(text) if text else ():
                    if use.words is None and use.path.startswith("contact.") and (label := is_known(use.path)):
                        said = f'{{{{ {use.path} | default: "there" }}}}'
                        letter = wording.as_letter if field == "body" else None
                        where, mended = (
                            (f"{path}.letter", letter.with_words(use.source, said).model_dump(mode="json"))
                            if letter
                            else (f"{path}.{field}", text.replace(use.source, said))
                        )
                        mend = Mend("Say “there” when it is empty", "set", where, mended)
                        sentence = f"“{wording.name or self.label}” has no words for when {label} is empty."
                        yield Fault("merge-field-no-words", "warning", sentence, mend)
