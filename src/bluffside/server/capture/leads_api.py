"""Sources of leads, and the leads they sent."""

from typing import Any

from django.conf import settings
from django.db.models import Count, Q, QuerySet
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema

from bluffside.server.capture import leads, usages
from bluffside.server.capture.forms_api import Named
from bluffside.server.capture.models import Lead, LeadSource
from bluffside.server.practice import audit
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.words import moment

router = Router(tags=["capture"], auth=InAccount())
SHOWN = 100


class SourceIn(Schema):
    on: bool
    matching: leads.Matching


class SourceRow(Schema):
    """`seconds`: how long ago something came last; -1: never."""

    id: int
    name: str
    on: bool
    ready: bool
    last: str
    taken: int
    waiting: int
    failed: int


class LeadOut(Schema):
    id: int
    state: str
    reason: str
    at: str
    contact_id: int
    contact: str
    values: list[tuple[str, str]]


class SourceOut(SourceRow):
    """`url` only where its address was made a moment ago: it is shown once. `values`: the paths and values of the sample; `understood`: what it would become, or `fault` says why not."""

    url: str
    address_at: str
    matching: leads.Matching
    values: list[tuple[str, str]]
    understood: dict[str, str]
    fault: str
    leads: list[LeadOut]


def _sources(request: AccountRequest) -> QuerySet[LeadSource]:
    """With how many leads are in each state."""
    counts = {state: Count("leads", filter=Q(leads__state=state)) for state in Lead.State.values}
    return LeadSource.objects.filter(account=request.account).select_related("account").annotate(**counts)


def _source_of(request: AccountRequest, source_id: int) -> LeadSource:
    return get_object_or_404(_sources(request), id=source_id)


def _source_row(request: AccountRequest, source: Any) -> dict[str, Any]:
    """Of a source of `_sources`."""
    return {
        "id": source.id, "name": source.name, "on": source.on, "ready": leads.Matching.model_validate(source.matching).ready(),
        "last": moment(source.last_at, request.account.zone) if source.last_at else "",
        "taken": source.taken, "waiting": source.waiting, "failed": source.failed,
    }  # fmt: skip


def _source_out(request: AccountRequest, source: LeadSource, secret: str = "") -> SourceOut:
    url = f"{settings.ADDRESS}/in/{secret}" if secret else ""
    matching, values = (
        leads.Matching.model_validate(source.matching),
        list(leads.paths(source.sample))[: leads.MOST_PATHS],
    )
    understood, fault = {}, ""
    if source.sample is not None:
        try:
            understood = leads.understood(request.account, matching, source.sample)
        except ValueError as error:
            fault = str(error)
    last = Lead.objects.filter(source=source).select_related("contact").order_by("-id")[:30]
    return SourceOut(
        **_source_row(request, source), url=url,
        address_at=moment(source.address_at, request.account.zone), matching=matching, values=values,
        understood=understood, fault=fault,
        leads=[
            LeadOut(
                id=one.pk, state=one.state, reason=one.reason, at=moment(one.at, request.account.zone),
                contact_id=one.contact_id or 0, contact=one.contact.name if one.contact else "",
                values=list(leads.paths(one.body))[:12],
            )
            for one in last
        ],
    )  # fmt: skip


@router.get("lead-sources", response=list[SourceRow])
def all_sources(request: AccountRequest, account: Path[str]) -> list[SourceRow]:
    return [SourceRow(**_source_row(request, one)) for one in _sources(request).order_by("name")]


@router.post("lead-sources", response={201: SourceOut})
def new_source(request: AccountRequest, account: Path[str], given: Named) -> tuple[int, SourceOut]:
    require(request, "workflows")
    made = leads.make(request.account, given.name)
    return 201, _source_out(request, _source_of(request, made.id), made.secret)


@router.get("lead-sources/{int:source_id}", response=SourceOut)
def one_source(request: AccountRequest, account: Path[str], source_id: int) -> SourceOut:
    require(request, "workflows")
    return _source_out(request, _source_of(request, source_id))


@router.put("lead-sources/{int:source_id}", response=SourceOut)
def change_source(request: AccountRequest, account: Path[str], source_id: int, given: SourceIn) -> SourceOut:
    require(request, "workflows")
    source = _source_of(request, source_id)
    source.matching = given.matching.model_dump(mode="json")
    source.save(update_fields=["matching"])
    if source.on != given.on:
        leads.switch(source, given.on, request.person)
    return _source_out(request, source)


@router.put("lead-sources/{int:source_id}/name", response=SourceOut)
def rename_source(request: AccountRequest, account: Path[str], source_id: int, given: Named) -> SourceOut:
    require(request, "workflows")
    source = _source_of(request, source_id)
    usages.rename(source, given.name, request.person)
    return _source_out(request, source)


@router.post("lead-sources/{int:source_id}/address", response=SourceOut)
def new_address(request: AccountRequest, account: Path[str], source_id: int) -> SourceOut:
    """Another address, shown in this answer alone; the one before leads nowhere from now on."""
    require(request, "workflows")
    source = leads.address_anew(get_object_or_404(LeadSource, account=request.account, id=source_id))
    said = [audit.Noted(f"the address of the lead source “{source.name}”", "", "made anew")]
    audit.note(request.account, request.person, "connections", said)
    return _source_out(request, _source_of(request, source_id), source.secret)


@router.post("lead-sources/{int:source_id}/replay", response=SourceOut)
def replay(request: AccountRequest, account: Path[str], source_id: int) -> SourceOut:
    """Tries what waits or failed again."""
    require(request, "workflows")
    source = _source_of(request, source_id)
    leads.replay(source)
    return _source_out(request, source)
