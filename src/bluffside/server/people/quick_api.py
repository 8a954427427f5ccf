"""Quick entry: people typed in, a line each."""

from dataclasses import asdict

from django.db import transaction
from ninja import Path, Router, Schema
from pydantic import Field

from bluffside.core.terms import TwoWay
from bluffside.server.events.stream import Cause
from bluffside.server.people import quick
from bluffside.server.people.services import (
    BadContact,
)
from bluffside.server.practice.access import AccountRequest, InAccount, require

router = Router(tags=["people"], auth=InAccount())


class QuickText(Schema):
    text: str = Field(max_length=50_000)


class QuickLine(Schema):
    first_name: str = ""
    last_name: str = ""
    mobile: str = ""
    email: str = ""
    note: str = ""
    tags: list[str] = []
    agreed: list[TwoWay] = []
    evidence: str = Field(default="", max_length=400)
    fault: str = ""
    known: str = ""
    told: str = ""


class QuickDone(Schema):
    """One for each line: the contact, or why it was not kept."""

    contact_id: int = 0
    new: bool = False
    fault: str = ""


@router.post("quick/understand", response=list[QuickLine])
def understand(request: AccountRequest, account: Path[str], given: QuickText) -> list[QuickLine]:
    """What each line says; empty lines say nothing. Nothing is kept."""
    lines = given.text.splitlines()[:200]
    return [QuickLine(**asdict(quick.understand(request.account, line))) for line in lines]


@router.post("quick", response=list[QuickDone])
def quick_entry(request: AccountRequest, account: Path[str], lines: list[QuickLine]) -> list[QuickDone]:
    """Keeps lines, each by itself: one that cannot be kept holds up no other."""
    require(request, "people")
    done = []
    for line in lines[:200]:
        try:
            with transaction.atomic():
                read = quick.Line(**line.model_dump())
                id, new = quick.add(request.account, read, Cause(actor=request.person))
            done.append(QuickDone(contact_id=id, new=new))
        except (BadContact, ValueError) as error:
            done.append(QuickDone(fault=str(error)))
    return done
