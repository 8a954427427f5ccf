"""Call: a member rings the contact, trying several times. The workflow goes on at once."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.steps.base import Fault, part
from bluffside.core.steps.for_member import ForMember


class Call(ForMember):
    label = "Call"
    finds = ("call", "ring", "phone")
    sentence = "Calls about {about}, trying up to {attempts} times."
    speaks = "call"
    task = "call"
    called = "call"

    kind: Literal["call"] = "call"
    about: str = part("line", "what the call is about", default="how they are getting on", max_length=200)
    say: str = part("text", "what to say", default="", max_length=4_000)
    attempts: int = part("count", "how often to try", default=3, ge=1, le=9)
    last: str = part("text", "what to do on the last attempt", default="", max_length=1_000)

    def words(self) -> tuple[str, str]:
        return self.about, self.say

    def attempt(self) -> tuple[int, str]:
        return self.attempts, self.last

    def faults(self) -> Iterator[Fault]:
        yield from super().faults()
        if not self.say.strip():
            yield Fault("call-nothing-to-say", "warning", "There is nothing written down to say on the call.")
