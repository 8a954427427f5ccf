"""What a contact may do at a wait, to be offered to who rehearses: each thing with what a scenario would write for it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from bluffside.core.steps import Step
from bluffside.core.steps.around import Around
from bluffside.core.steps.booking_assistant import BookingAssistant
from bluffside.core.steps.wait_for import WaitFor
from bluffside.core.steps.wait_for_reply import WaitForReply
from bluffside.core.triggers import Trigger
from bluffside.core.triggers.appointment import AppointmentHappening
from bluffside.core.triggers.deal import DealHappening
from bluffside.core.triggers.deal_rests import DealRests
from bluffside.core.triggers.field_changed import FieldChanged
from bluffside.core.triggers.form_sent import FormSent
from bluffside.core.triggers.keyword_texted import KeywordTexted
from bluffside.core.triggers.lead_received import LeadReceived
from bluffside.core.triggers.link_clicked import LinkClicked
from bluffside.core.triggers.list_joined import ListJoined
from bluffside.core.triggers.opted_out import OptedOut
from bluffside.core.triggers.purchase_made import PurchaseMade
from bluffside.core.triggers.replied import Replied
from bluffside.core.triggers.stage_changed import StageChanged
from bluffside.core.triggers.tag_added import TagAdded
from bluffside.core.triggers.tag_removed import TagRemoved
from bluffside.core.triggers.task_done import TaskDone
from bluffside.core.workflow.document import Workflow, walk

APPOINTMENT = {
    "booked": "book", "moved": "move", "cancelled": "cancel", "missed": "miss", "attended": "attend",
    "waited for": "wait_for",
}  # fmt: skip
TALKED = ("yes please", "the first one", "none of those", "how much is it?")
AHEAD = timedelta(days=3)  # an appointment that is booked in a rehearsal


@dataclass(frozen=True, slots=True)
class Offer:
    """`words` say it; `act` is what `scenario.Act` holds of it (but for its moment). No act: nothing happens."""

    words: str
    act: Mapping[str, Any] | None


def offers(step: Step, local: datetime) -> Sequence[Offer]:
    """What may happen at a step that waits for an answer, as if it waited at a local time; the last is nothing."""
    found = []
    if isinstance(step, WaitForReply):
        found = [Offer(f"says “{lane.words[0]}”", {"reply": lane.words[0]}) for lane in step.lanes if lane.words]
        return [*found, Offer("says nothing", None)]
    if isinstance(step, BookingAssistant):
        return [*(Offer(f"says “{words}”", {"reply": words}) for words in TALKED), Offer("says nothing", None)]
    if isinstance(step, WaitFor):
        for lane in step.lanes:
            act = _act(lane.on, local) if lane.on else None
            if lane.on and act:
                found.append(Offer(lane.on.describe().removeprefix("when "), act))
    return [*found, Offer("nothing happens", None)]


def appointment_types(workflow: Workflow) -> Sequence[str]:
    """The types of appointment that a workflow starts by or says something relative to; "" for one of any type."""
    found = [start.type for start in workflow.starts if isinstance(start, AppointmentHappening)]
    found += [step.type for step in walk(workflow.steps) if isinstance(step, Around) and not step.field]
    named = list(dict.fromkeys(type for type in found if type))
    return named or ([""] if found else [])


def _act(on: Trigger, local: datetime) -> Mapping[str, Any] | None:
    """What makes a trigger true; None for what comes by time alone."""
    return _of_deals(on) or _of_people(on, local)


def _of_deals(on: Trigger) -> Mapping[str, Any] | None:
    match on:
        case StageChanged():
            return {"stage": on.into, "pipeline": on.pipeline, **({"by": on.by.member} if on.by.who == "only" else {})}
        case DealRests():
            return {"rests": on.stage, "pipeline": on.pipeline}
        case DealHappening(what="won" | "lost" as what):
            return {what: "", "pipeline": on.pipeline}
    return None


def _of_people(on: Trigger, local: datetime) -> Mapping[str, Any] | None:
    match on:
        case LinkClicked():
            return {"click": on.message, "url": on.url or "https://example.com/"}
        case Replied():
            return {"reply": "Hello", "message": on.message, "channel": on.channel or "text"}
        case FormSent():
            return {"form": on.form}
        case KeywordTexted():
            return {"keyword": on.keyword}
        case LeadReceived():
            return {"lead": on.source}
        case PurchaseMade():
            return {"buys": on.item, "amount": "100"}
        case TagAdded():
            return {"tag": next(iter(on.tags), "")}
        case TagRemoved():
            return {"untag": next(iter(on.tags), "")}
        case ListJoined():
            return {"list": on.list}
        case FieldChanged():
            return {"field": on.field, "to": on.to or "something else"}
        case TaskDone():
            return {"outcome": next(iter(on.outcomes), "reached"), "step": on.step}
        case OptedOut():
            return {"opt_out": on.channel or "text"}
        case AppointmentHappening():
            act = APPOINTMENT[on.what]
            start = (local + AHEAD).replace(hour=10, minute=0, second=0, microsecond=0, tzinfo=None)
            return {act: on.type} | ({"start": start} if act in ("book", "move") else {})
    return None
