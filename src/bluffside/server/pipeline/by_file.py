"""Deals in a file of people: a row is somebody, and a deal of theirs."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any
from uuid import uuid4

from django.db.models import Exists, OuterRef, Q
from django.db.models.fields.json import KT

from bluffside.server import sql
from bluffside.server.events.models import Event
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.people.import_beside import Beside, BesideColumn, Reader
from bluffside.server.people.models import Contact, ContactImport
from bluffside.server.pipeline import stays
from bluffside.server.pipeline.models import Deal, DealNote, DealPerson, Pipeline
from bluffside.server.pipeline.services import check_stage
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person

MOST_WORTH = Decimal(10) ** 11


@dataclass(frozen=True, slots=True)
class FiledDeal:
    """A deal as a row tells of it."""

    name: str
    stage: str
    state: str
    value: Decimal
    expected_on: date | None
    owner: Person | None

    def __str__(self) -> str:
        closed = "" if self.state == "open" else f", {self.state}"
        return f"{f'the deal “{self.name}”' if self.name else 'a deal'} in “{self.stage}”{closed}"


class DealReader(Reader):
    """A stage or a member that is not there, or a worth below nothing: told, and no deal is made of that row."""

    def __init__(self, account: Account, place: str) -> None:
        pipeline = Pipeline.objects.filter(account=account, name=place).first()
        if pipeline is None:
            raise ValueError(f"there is no pipeline “{place}”")
        self.place = place
        self.stages = [one.name for one in pipeline.stages.order_by("position", "id")]
        team = Person.objects.filter(memberships__account=account, is_active=True).distinct()
        self.team = {said.casefold(): one for one in team for said in (one.name, one.email)}

    def read(self, cells: Mapping[str, Any]) -> FiledDeal:
        said = str(cells.get("deal:stage", self.stages[0]))
        stage = next((one for one in self.stages if one.casefold() == said.casefold()), None)
        if stage is None:
            raise ValueError(f"no deal: {self.place} has no stage “{said}”")
        state = str(cells.get("deal:state", "open")).casefold()
        if state not in Deal.State.values:
            raise ValueError(f"no deal: “{state}” is neither open nor won nor lost")
        value = Decimal(str(cells.get("deal:worth", 0)))
        if not 0 <= value <= MOST_WORTH:
            raise ValueError(f"no deal: it cannot be worth “{value}”")
        named = str(cells.get("deal:owner", ""))
        owner = self.team.get(named.casefold())
        if named and owner is None:
            raise ValueError(f"no deal: nobody of the team is called “{named}”")
        expected = cells.get("deal:expected")
        on = date.fromisoformat(str(expected)) if expected else None
        return FiledDeal(sql.plain(str(cells.get("deal:name", "")))[:200], stage, state, value, on, owner)


class DealsByFile(Beside):
    name = "deal"
    columns = {  # an attribute of the base
        "deal:name": BesideColumn("Deal: what it is about", "text", ("deal", "dealname", "dealtitle")),
        "deal:stage": BesideColumn("Deal: its stage", "text", ("stage", "dealstage", "pipelinestage")),
        "deal:worth": BesideColumn("Deal: what it is worth", "money", ("dealworth", "dealvalue", "dealamount")),
        "deal:expected": BesideColumn(
            "Deal: when it is expected", "date", ("dealexpected", "expectedclose", "closedate")
        ),
        "deal:state": BesideColumn("Deal: open, won or lost", "text", ("dealstate", "dealstatus")),
        "deal:owner": BesideColumn("Deal: whose, by name or email", "text", ("dealowner",)),
    }

    def places(self, account: Account) -> list[str]:
        return list(Pipeline.objects.filter(account=account).order_by("id").values_list("name", flat=True))

    def reader(self, account: Account, place: str) -> DealReader:
        return DealReader(account, place)

    def write(
        self, imported: ContactImport, place: str, rows: Sequence[tuple[Contact, FiledDeal]], cause: Cause
    ) -> None:
        """A deal of that name on that pipeline is not made twice, so that a file can be brought in again. What is closed already
        starts nothing."""
        account, now = imported.account, clock.now()
        for stage in sorted({deal.stage for _, deal in rows}):
            check_stage(account, place, stage)
        known = Deal.objects.filter(contact__in={contact.pk for contact, _ in rows}, pipeline=place)
        there = {(id, name.casefold()) for id, name in known.values_list("contact_id", "name")}
        made = []
        for contact, deal in rows:
            key = contact.pk, deal.name.casefold()
            if key in there:
                continue
            there.add(key)
            made.append(
                Deal(
                    account=account, contact=contact, ref=f"{_ref(imported)}{uuid4().hex[:12]}", pipeline=place, stage=deal.stage,
                    name=deal.name, value=deal.value, state=deal.state, owner=deal.owner or contact.responsible, created_at=now,
                    since=now, expected_on=deal.expected_on, closed_at=None if deal.state == Deal.State.OPEN else now,
                )
            )  # fmt: skip
        Deal.objects.bulk_create(made)
        stays.follow(Deal.objects.filter(pk__in=[one.pk for one in made]), now)
        told = [one for one in made if one.state == Deal.State.OPEN]
        data = [{"deal": one.ref, "pipeline": place, "stage": one.stage, "name": one.name} for one in told]
        happened = [Happened("deal.created", one.contact_id, d, cause) for one, d in zip(told, data, strict=True)]
        record(account, happened)

    def take_back(self, imported: ContactImport, contact_ids: Sequence[int] | None) -> int:
        made = Deal.objects.filter(account=imported.account, ref__startswith=_ref(imported))
        if contact_ids is not None:
            made = made.filter(contact_id__in=contact_ids)
        moved = ~Q(kind="deal.created") & Q(deal=OuterRef("ref"))
        began = Q(kind="enrolment.started", at__gte=imported.started_at or clock.now())
        theirs = Event.objects.alias(deal=KT("data__deal")).filter(account=imported.account)
        went_on = theirs.filter(moved | began, contact_id=OuterRef("contact_id"))
        noted, others = (Exists(of.objects.filter(deal=OuterRef("pk"))) for of in (DealNote, DealPerson))
        made.exclude(Exists(went_on) | noted | others).delete()
        return made.count()


def _ref(imported: ContactImport) -> str:
    return f"file-{imported.pk}-"
