"""Workflows and contacts that several tests use, and hypothesis strategies that make others."""

from datetime import UTC, datetime
from typing import Any

from hypothesis import strategies as st

from bluffside.core.facts import Account, Contact, Facts, Member
from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.files import parse_workflow

MONDAY = datetime(2026, 3, 2, 9, tzinfo=UTC)

ADA = Facts(
    Contact("Ada", "Marsh", "ada@example.com", "+447700900123", id="ada"),
    Account("Tern Harbour Sailing", "Europe/London"),
    Member("Mel", "Mel Rowan", "+447700900100"),
)

ASK: dict[str, Any] = {
    "name": "Ask about the taster day",
    "starts": [{"kind": "tag_added", "tags": ["taster"]}, {"kind": "by_hand"}],
    "steps": [
        {"kind": "text", "id": "hello", "message": {
            "name": "Hello", "body": 'Hi {{ contact.first_name | default: "there" }}, dry again?'}},
        {"kind": "wait_for_reply", "id": "answer", "limit": "72 hours", "lanes": [
            {"id": "yes", "answer": "yes", "words": ["yes", "keen"], "steps": [
                {"kind": "tag", "id": "tag", "tag": "wants a course"},
                {"kind": "call", "id": "ring", "about": "the course", "say": "Hi {{ contact.first_name }}"}]},
            {"id": "out", "answer": "out", "words": ["no"], "steps": [{"kind": "end", "id": "bye"}]},
            {"id": "other", "answer": "other", "steps": [{"kind": "to_do", "id": "read", "title": "Read the reply"}]},
            {"id": "none", "answer": "none", "steps": [
                {"kind": "email", "id": "mail", "message": {"name": "Ways", "subject": "Three ways", "body": "Hi"}}]},
        ]},
        {"kind": "wait", "id": "pause", "duration": "2 days", "at": "10:00"},
        {"kind": "note", "id": "note", "text": "Reached the end"},
    ],
}  # fmt: skip


def ask(**changes: Any) -> Workflow:
    return parse_workflow(ASK | changes)


_durations = st.builds("{} {}".format, st.integers(1, 40), st.sampled_from(["minutes", "hours", "days", "weeks"]))


def divided(steps: st.SearchStrategy[Any]) -> st.SearchStrategy[Any]:
    runs = st.lists(steps, max_size=3)
    replies = st.builds(
        lambda limit, answers: {"kind": "wait_for_reply", "limit": limit, "lanes": [
            {"answer": a, "words": {"yes": ["yes"], "out": ["no"]}.get(a, []), "steps": s} for a, s in answers.items()]},
        _durations,
        st.dictionaries(st.sampled_from(["yes", "out", "other", "none"]), runs),
    )  # fmt: skip
    choices = st.builds(
        lambda first, last: {"kind": "choose", "lanes": [
            {"when": {"test": "tag", "tag": "a"}, "steps": first}, {"when": None, "steps": last}]},
        runs, runs,
    )  # fmt: skip
    shares = st.builds(
        lambda first, last: {"kind": "split", "lanes": [{"share": 1, "steps": first}, {"share": 1, "steps": last}]},
        runs,
        runs,
    )
    loops = st.builds(
        lambda run: {"kind": "repeat", "times": 2, "lanes": [{"steps": run}]}, st.lists(steps, min_size=1, max_size=2)
    )
    return st.one_of(replies, choices, shares, loops)


def numbered(steps: list[dict[str, Any]], prefix: str = "s") -> list[dict[str, Any]]:
    done = []
    for index, step in enumerate(steps):
        id = f"{prefix}-{index}"
        lanes = [
            lane | {"id": f"{id}-l{n}", "steps": numbered(lane["steps"], f"{id}-{n}")}
            for n, lane in enumerate(step.get("lanes", []))
        ]
        done.append(step | {"id": id} | ({"lanes": lanes} if "lanes" in step else {}))
    return done
