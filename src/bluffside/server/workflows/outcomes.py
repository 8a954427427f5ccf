"""What came of messages, counted by something that they have."""

from typing import NamedTuple

from django.db.models import Count, Exists, OuterRef, Q, QuerySet

from bluffside.server.messaging.models import Link, Message, Reply


class Outcome(NamedTuple):
    """How many there are; how many had a link, and of how many a person followed it; how many were answered by somebody."""

    sent: int = 0
    with_link: int = 0
    clicked: int = 0
    answered: int = 0


def outcomes(messages: QuerySet[Message], by: str) -> dict[str, Outcome]:
    """By the value of a field of the messages: "name", "wording"."""
    links = Link.objects.filter(message=OuterRef("pk"))
    rows = (
        messages.annotate(
            linked=Exists(links),
            followed=Exists(links.filter(clicks__gt=0)),
            replied=Exists(Reply.objects.filter(message=OuterRef("pk"), automatic=False)),
        )
        .values_list(by)
        .annotate(
            sent=Count("id"),
            with_link=Count("id", filter=Q(linked=True)),
            clicked=Count("id", filter=Q(followed=True)),
            answered=Count("id", filter=Q(replied=True)),
        )
        .order_by()
    )
    return {value: Outcome(*counts) for value, *counts in rows}
