"""A deal that is made for whoever sends a form, or comes as a lead: where, what about, worth what."""

from collections.abc import Iterator
from decimal import Decimal

from pydantic import BaseModel, ConfigDict, Field

from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.people.models import Contact
from bluffside.server.people.usages import Place, Use
from bluffside.server.pipeline import services
from bluffside.server.pipeline.models import Deal, Pipeline


class MakesDeal(BaseModel):
    """`name`: "" for what they came by; `worth` in the account's currency."""

    model_config = ConfigDict(extra="forbid")

    pipeline: str = Field(max_length=80)
    stage: str = Field(max_length=80)
    name: str = Field(default="", max_length=200)
    worth: Decimal = Field(default=Decimal(0), ge=0, le=10**11)

    def uses(self, place: Place, id: int, title: str) -> Iterator[Use]:
        for kind, name in (("pipeline", self.pipeline), ("stage", self.stage)):
            yield Use(kind, name, place, id, title, "Makes a deal there.", True)


def make(contact: Contact, makes: MakesDeal | None, by: str, cause: Cause) -> Deal | None:
    """Whoever has an open one on that pipeline gets no second: it is noted with that one. What came is kept whatever has become of
    the pipeline: where the stage is gone, the deal stands in the first; where the pipeline is, none is made."""
    pipeline = (
        Pipeline.objects.filter(account=contact.account, name=makes.pipeline).prefetch_related("stages").first()
        if makes
        else None
    )
    if makes is None or pipeline is None:
        return None
    names = [one.name for one in pipeline.stages.all()]
    stage = makes.stage if makes.stage in names else names[0]
    try:
        return services.create_deal(
            contact, pipeline.name, stage, makes.name or by, makes.worth, Cause(enrolment_id=cause.enrolment_id),
            owner=contact.responsible, although=False,
        )  # fmt: skip
    except services.HasOne:
        known = Deal.objects.filter(contact=contact, pipeline=pipeline.name, state=Deal.State.OPEN).first()
        data = {"deal": known.ref if known else "", "pipeline": pipeline.name, "by": by}
        record(contact.account, [Happened("deal.asked_again", contact.pk, data, cause)])
        return known
