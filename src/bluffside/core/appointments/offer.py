"""What a type of appointment offers to whoever books it."""

from typing import Annotated, Literal

from pydantic import Field

from bluffside.core.document_part import DocumentPart

Minutes = Annotated[int, Field(ge=0, le=480)]


class Offer(DocumentPart):
    """
    minutes         how long it takes
    before, after   minutes around it in which whoever gives it, and what it needs, are not free either
    every           minutes from one beginning to the next, counted from when the day opens
    soonest_hours   how long before it at the latest one may book
    ahead_days      how far ahead
    members         who gives it, by their numbers; each is enough. Nobody: the business as a whole
    pick            who of several that are free: who has least in hand that week, or the first of them
    things          what it needs, by number: one of these is enough. Nothing: it needs none
    places          how many people fit at once
    where           at a place, by phone, or by a link; `place` says where
    """

    minutes: int = Field(default=60, ge=5, le=1_440)
    before: Minutes = 0
    after: Minutes = 0
    every: int = Field(default=30, ge=5, le=1_440)
    soonest_hours: int = Field(default=2, ge=0, le=2_160)
    ahead_days: int = Field(default=60, ge=1, le=366)
    members: tuple[int, ...] = Field(default=(), max_length=100)
    pick: Literal["least", "first"] = "least"
    things: tuple[int, ...] = Field(default=(), max_length=100)
    places: int = Field(default=1, ge=1, le=500)
    where: Literal["place", "phone", "link"] = "place"
    place: str = Field(default="", max_length=200)
    price: str = Field(default="", max_length=80)
    about: str = Field(default="", max_length=500)
    thanks: str = Field(default="", max_length=300)
