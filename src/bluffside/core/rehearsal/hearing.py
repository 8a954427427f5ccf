"""Who of a contact's enrolments hears of what happened, and as what; in life that is server/workflows/signals.py."""

from collections.abc import Iterator, Sequence
from datetime import UTC, datetime
from typing import Any

from bluffside.core.engine.effects import Effect, HandOver, SendMessage, StopOthers
from bluffside.core.engine.signals import Happened, Removed, Replied, Signal
from bluffside.core.events import Event
from bluffside.core.rehearsal.moments import Inside, News

READ = "reply.read"  # heard by all, like a reply
OF_ONE = ("message.let_go", "message.dropped")  # heard by whose message it is
BEFORE = datetime(1, 1, 1, tzinfo=UTC)


def hear(inside: Sequence[Inside], news: News) -> Iterator[tuple[Inside, Signal]]:
    event, cause = news.event, news.cause
    if event.kind == "others.stopped":
        named = event.data["workflows"]
        for one in inside:
            here = cause is not None and one.program.name == cause.program.name
            if one is not cause and (here or not event.data["here"]) and (not named or one.program.name in named):
                yield one, Removed(f"stopped by “{event.data['from']}”")
    elif news.reply:
        for one in inside:
            if not one.program.by_deal or one is _answered(inside, one, news.reply):
                yield one, news.reply
    elif not news.acted:
        for one in inside:
            if (event.kind in one.program.hears or event.kind == READ) and (event.kind not in OF_ONE or one is cause):
                yield one, Happened(event)


def _answered(inside: Sequence[Inside], among: Inside, reply: Replied) -> Inside:
    """Of those in one workflow, each for a deal of its own: whose message the reply answers, else who came in last."""
    theirs = [one for one in inside if one.program.name == among.program.name]
    said = {id(one): _last_said(one, reply) for one in inside}
    spoke = max(inside, key=lambda one: said[id(one)])
    return spoke if said[id(spoke)] > BEFORE and spoke in theirs else max(theirs, key=lambda one: one.number)


def _last_said(one: Inside, reply: Replied) -> datetime:
    """When it last sent something that the reply may answer."""
    fitting = (at for (by, name), at in one.said.items() if by == reply.channel and reply.message in ("", name))
    return max(fitting, default=BEFORE)


def told_to_others(one: Inside, effect: Effect, at: datetime) -> Iterator[Event]:
    """What an effect says to other workflows: that one goes on there, or that they stop."""
    if isinstance(effect, HandOver):
        handed = {"workflow": effect.workflow, "from": one.program.name, **effect.about}
        yield Event("workflow.handed_over", at, handed)
    elif isinstance(effect, StopOthers):
        data: dict[str, Any] = {"workflows": effect.workflows, "from": one.program.name, "here": effect.here}
        yield Event("others.stopped", at, data)


def note_said(one: Inside, effect: SendMessage, at: datetime) -> None:
    if one.program.by_deal:
        one.said[effect.channel, effect.name] = at
