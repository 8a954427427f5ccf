"""Keeping a rehearsal as a scenario: what happened to the contact, and what it came to, as expectations.

A real contact is kept without their name and addresses: what counts is that they have some, and what is known of them.
"""

from collections.abc import Iterator, Sequence
from datetime import datetime

from bluffside.core.engine.effects import AddTag, HandOver, MakeTask, MoveDeal, RemoveTag, SendMessage
from bluffside.core.facts import Contact
from bluffside.core.rehearsal.rehearse import Rehearsal
from bluffside.core.timing.local import to_local
from bluffside.core.workflow.scenario import Act, Expect, Scenario, SomeAppointment, SomeContact, SomeDeal

MOST = 200


def some_contact(contact: Contact, zone: str, at: datetime) -> SomeContact:
    """The contact as a scenario describes one; `zone` is the account's."""
    home = contact.zone or zone
    return SomeContact(
        first_name="Robin" if contact.first_name else "",
        last_name="Vane" if contact.last_name else "",
        email="robin@example.com" if contact.email else "",
        mobile="+447700900001" if contact.mobile else "",
        post="1 Example Row" if contact.post else "",
        push="robin-device" if contact.push else "",
        social="@robin" if contact.social else "",
        zone=contact.zone,
        tags=tuple(sorted(contact.tags)),
        lists=tuple(sorted(contact.lists)),
        fields=dict(contact.fields),
        opted_out=tuple(sorted(contact.opted_out)),
        agreed=tuple(sorted({one.channel for one in contact.consents if one.state == "given"} - contact.opted_out)),
        channel_order=contact.channel_order,
        do_not_contact=contact.do_not_contact,
        score=round(contact.score.at(at), 2),
        deals=tuple(SomeDeal(pipeline=one.pipeline, stage=one.stage, value=one.value, state=one.state, id=one.id)
                    for one in contact.deals),
        appointments=tuple(
            SomeAppointment(type=one.type, start=_local(one.start, home), id=one.id)
            for one in contact.appointments if one.to_come
        ),
    )  # fmt: skip


def kept(
    name: str, contact: Contact, played: Rehearsal, joined: datetime, zone: str, acts: Sequence[tuple[datetime, Act]]
) -> Scenario:
    """The rehearsal as a scenario. `acts` are what happened, with their instants."""
    home = contact.zone or zone
    events = tuple(act.model_copy(update={"at": _local(at, home), "after": ""}) for at, act in acts)
    expect = [*_expectations(played, joined, home)][: MOST - 2]
    if played.reached:
        expect.append(Expect(aim=True))
    expect.append(Expect(gone=True) if played.state.ended else Expect(inside=True))
    return Scenario(
        name=name,
        contact=some_contact(contact, zone, joined),
        start=_local(joined, home),
        zone=zone,
        events=events,
        expect=tuple(expect),
    )


def _local(at: datetime, zone: str) -> datetime:
    return to_local(at, zone).replace(tzinfo=None, microsecond=0)


def _expectations(played: Rehearsal, joined: datetime, zone: str) -> Iterator[Expect]:
    first = to_local(joined, zone).date()
    for at, effect in played.effects:
        day = (to_local(at, zone).date() - first).days
        match effect:
            case SendMessage(name=name, channel=channel):
                yield Expect(sent=name, by=channel, on_day=day)
            case MakeTask(title=title):
                yield Expect(task=title, on_day=day)
            case AddTag(tag=tag):
                yield Expect(tagged=tag)
            case RemoveTag(tag=tag):
                yield Expect(untagged=tag)
            case MoveDeal(stage=stage):
                yield Expect(stage=stage)
            case HandOver(workflow=workflow):
                yield Expect(handed_over=workflow)
