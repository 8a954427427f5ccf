"""The core's speed, against a bare discrete-event simulation in simpy of the same waits, and a large rehearsal.

    step     one call of advance(), with all its reasons kept, for people who go through thirty waits of minutes, hours,
             days and weeks, driven by a plain heap; against simpy's timeouts of the same lengths
    world    the same people in the rehearsal's world, which also carries effects and events
    large    10,000 contacts through a workflow of 30 lines over 90 days, with lanes, a loop, a split and answers

Measured in short interleaved rounds with the garbage collector off while the clock runs, as `timeit` does. A rate is that
of the best round; a ratio is the median of the rounds' own, since a machine may change its speed between two rounds.
"""

import gc
import resource
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from heapq import heappop, heappush
from statistics import median

import simpy

from bluffside.core.engine.advance import advance
from bluffside.core.engine.signals import Joined, Replied, TimeReached
from bluffside.core.engine.state import State
from bluffside.core.facts import Account, Contact, Facts
from bluffside.core.rehearsal.world import World
from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.files import parse_workflow
from bluffside.core.workflow.program import compile_workflow

START = datetime(2026, 3, 2, 9, tzinfo=UTC)
PEOPLE, ROUNDS = 300, 21
ADA = Facts(
    Contact("Ada", email="ada@example.com", mobile="+447700900123", id="ada", zone="Australia/Hobart"),
    Account("Tern Harbour", "Europe/London"),
)
WAITS = ["1 day", "3 hours", "2 days", "45 minutes", "1 week"] * 6
WAITING = parse_workflow(
    {"name": "waits", "steps": [{"kind": "wait", "id": f"w{n}", "duration": wait} for n, wait in enumerate(WAITS)]}
)


def bare() -> int:
    """The same waits as events of simpy; lengths in minutes, no calendar and nothing decided."""
    minutes = {"1 day": 1_440, "3 hours": 180, "2 days": 2_880, "45 minutes": 45, "1 week": 10_080}
    world = simpy.Environment()

    def person():  # type: ignore[no-untyped-def]  # a generator, as simpy wants it
        for wait in WAITS:
            yield world.timeout(minutes[wait])

    for _ in range(PEOPLE):
        world.process(person())
    world.run()
    return PEOPLE * len(WAITS)


def steps() -> int:
    program, queue, reasons, steps = compile_workflow(WAITING), list[tuple[datetime, int, State]](), [], 0
    for number in range(PEOPLE):
        state = advance(program, State(START), ADA, Joined(), START).state
        heappush(queue, (state.until or START, number, state))
    reached = TimeReached()
    while queue:
        at, number, state = heappop(queue)
        outcome = advance(program, state, ADA, reached, at)
        steps += 1
        reasons.append(outcome.reasons)
        if outcome.state.until:
            heappush(queue, (outcome.state.until, number, outcome.state))
    return steps


def in_the_world() -> int:
    world = World([WAITING], ADA.account)
    for number in range(PEOPLE):
        world.add(replace(ADA.contact, id=str(number)), START)
        world.enrol(str(number), "waits", START)
    return sum(1 for _ in world.run()) - PEOPLE  # joining is not a step


def _text(id: str) -> dict[str, object]:
    body = 'Hi {{ contact.first_name | default: "there" }}, a word from {{ account.name }}.'
    return {"kind": "text", "id": id, "message": {"name": id, "body": body}}


def _wait(id: str, length: str) -> dict[str, object]:
    return {
        "kind": "wait",
        "id": id,
        "duration": length,
        "at": "10:00",
        "weekdays": ["mon", "tue", "wed", "thu", "fri"],
    }


def thirty_lines() -> Workflow:
    """Thirty lines over ninety days, with every way of dividing."""
    answer = {"kind": "wait_for_reply", "id": "answer", "limit": "72 hours", "lanes": [
        {"id": "yes", "answer": "yes", "words": ["yes"], "steps": [
            {"kind": "tag", "id": "keen", "tag": "keen"}, {"kind": "call", "id": "ring", "say": "Hi"},
            {"kind": "score", "id": "points", "points": 20}]},
        {"id": "other", "answer": "other", "steps": [{"kind": "to_do", "id": "read", "title": "Read it"}]},
        {"id": "none", "answer": "none", "steps": [_text("nudge"), _wait("w2", "4 days"), _text("nudge-2")]}]}  # fmt: skip
    loop = {"kind": "repeat", "id": "loop", "times": 4, "lanes": [{"id": "each", "steps": [
        _wait("weekly", "1 week"), _text("weekly-text")]}]}  # fmt: skip
    choose = {"kind": "choose", "id": "choose", "lanes": [
        {"id": "is-keen", "when": {"test": "all", "of": [{"test": "tag", "tag": "keen"}, {"test": "reach", "channel": "text"}]},
         "steps": [{"kind": "set_list", "id": "list", "list": "regatta"}, _text("regatta")]},
        {"id": "rest", "steps": [_wait("w4", "2 days"), {"kind": "note", "id": "note", "text": "Quiet so far"}]}]}  # fmt: skip
    split = {"kind": "split", "id": "split", "lanes": [
        {"id": "a", "share": 50, "steps": [_text("short")]}, {"id": "b", "share": 50, "steps": [_text("long")]}]}  # fmt: skip
    steps = [
        _text("hello"), _wait("w1", "2 days"), _text("ask"), answer, _wait("w3", "5 days"), choose, loop, split,
        {"kind": "on_day", "id": "day-70", "day": 70, "at": "09:00", "skip_holidays": True}, _text("seventy"),
        {"kind": "untag", "id": "untag", "tag": "new"}, _wait("w5", "3 weeks"), _text("last"),
        {"kind": "note", "id": "over", "text": "All said"}, {"kind": "tag", "id": "done", "tag": "done"},
    ]  # fmt: skip
    hours = {"weekdays": ["mon", "tue", "wed", "thu", "fri", "sat"], "start": "09:00", "end": "19:00"}
    return parse_workflow(
        {"name": "thirty", "steps": steps, "hours": hours, "leaves_on": [], "starts": [{"kind": "by_hand"}]}
    )


def large(people: int = 10_000) -> tuple[float, int, int, float]:
    """Seconds, moments, messages, and how much memory grew between the first tenth of the moments and the end, in MB."""
    workflow = thirty_lines()
    world = World([workflow], ADA.account)
    for number in range(people):
        world.add(replace(ADA.contact, id=str(number)), START)
        world.enrol(str(number), workflow.name, START + timedelta(minutes=number % 1_440))
        if number % 3 == 0:
            world.happen(str(number), START + timedelta(days=3, minutes=number % 1_440), Replied("Yes"))
    began, moments, messages, early = time.perf_counter(), 0, 0, 0.0
    for moment in world.run():
        moments += 1
        messages += sum(type(effect).__name__ == "SendMessage" for effect in moment.effects)
        if moments == people:
            early = _memory()
    return time.perf_counter() - began, moments, messages, _memory() - early


def _memory() -> float:
    """The most this process has held, in MB."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def compared(what: list[Callable[[], int]]) -> list[tuple[float, float]]:
    """Of each: events a second, the best of the rounds; and the median over the rounds of its ratio to the first."""
    rounds: list[list[float]] = []
    for _ in range(ROUNDS):
        rates = []
        for run in what:
            gc.collect()
            gc.disable()
            began = time.perf_counter()
            done = run()
            rates.append(done / (time.perf_counter() - began))
            gc.enable()
        rounds.append(rates)
    return [
        (max(rates[n] for rates in rounds), median(rates[n] / rates[0] for rates in rounds)) for n in range(len(what))
    ]


def report() -> None:
    names = ["floor: simpy, events of the same waits", "core: advance(), steps with all their reasons",
             "core: steps of people in the rehearsal’s world"]  # fmt: skip
    for name, (rate, ratio) in zip(names, compared([bare, steps, in_the_world]), strict=True):
        print(f"{name:<52} {rate:>12,.0f}/s   {ratio:.2f} of its floor")
    seconds, moments, messages, grown = large()
    print(f"10,000 contacts, 30 lines, 90 days: {seconds:.1f} s, {moments:,} moments, {messages:,} messages; "
          f"memory grew by {grown:.0f} MB after the first tenth")  # fmt: skip


if __name__ == "__main__":
    report()
