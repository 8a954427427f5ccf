"""Consent: write down that the contact agreed, opted out, or was asked, with the words it was about."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.conditions import Need
from bluffside.core.engine.effects import SetConsent
from bluffside.core.engine.turn import Turn
from bluffside.core.steps.base import Fault, OneAct, part
from bluffside.core.terms import SEVERAL, Channel, Purpose

WORDS = {"given": "agreed to", "withdrawn": "opted out of", "asked": "was asked about"}


class ChangeConsent(OneAct):
    """`wording` is what the contact was asked; the answer that led here is its evidence, in the enrolment's story."""

    label = "Consent"
    finds = ("consent", "opt in", "opt out", "permission")
    implied = {"opt in": {"state": "given"}, "opt out": {"state": "withdrawn"}}
    sentence = "Writes down: {state} {channel} for {purpose}."

    kind: Literal["consent"] = "consent"
    state: Literal["given", "withdrawn", "asked"] = part("choice", "what was said", words=WORDS, default="given")
    channel: Channel = part("channel", "channel", words=SEVERAL, default="email")
    purpose: Purpose = part("choice", "purpose", default="marketing")
    wording: str = part("text", "what they were asked", default="", max_length=2_000)

    def describe(self) -> str:
        return f"Writes down: {WORDS[self.state]} {SEVERAL[self.channel]} for {self.purpose}."

    def act(self, turn: Turn) -> None:
        turn.do(SetConsent(*turn.key, self.channel, self.purpose, self.state, "by a workflow", self.wording))
        turn.because("Wrote down: {} {} for {}.", WORDS[self.state], SEVERAL[self.channel], self.purpose)

    def needs(self) -> frozenset[Need]:
        return frozenset({"consents"})

    def brings(self) -> Iterator[tuple[str, str]]:
        if self.state != "asked":
            yield f"consent.{self.state}", self.channel

    def faults(self) -> Iterator[Fault]:
        if self.state == "given" and not self.wording.strip():
            sentence = "It writes down consent without the words that were agreed to; they are part of its proof."
            yield Fault("consent-no-wording", "warning", sentence)
