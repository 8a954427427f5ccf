"""Webhook: a request to another system. Address, names and body may hold merge fields."""

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from bluffside.core.document_part import DocumentPart
from bluffside.core.engine.effects import CallWebhook
from bluffside.core.engine.turn import Turn
from bluffside.core.messages.merge import faults
from bluffside.core.steps.base import Fault, Mend, OneAct, part
from bluffside.core.web_addresses import host_of


class Pair(DocumentPart):
    name: str = Field(default="", max_length=200)
    value: str = Field(default="", max_length=2_000)


class Webhook(OneAct):
    """`query` is what follows the question mark, a table of names; `headers` likewise."""

    label = "Webhook"
    finds = ("webhook", "request", "call url")
    sentence = "Sends a {method} request to {url}."

    kind: Literal["webhook"] = "webhook"
    method: Literal["GET", "POST", "PUT", "PATCH", "DELETE"] = part("choice", "method", default="POST")
    url: str = part("address", "address", default="", max_length=2_000)
    query: tuple[Pair, ...] = part("pairs", "after the question mark", empty="nothing", default=(), max_length=50)
    headers: tuple[Pair, ...] = part("pairs", "headers", empty="the usual", default=(), max_length=50)
    body: str = part("text", "body", default="", max_length=20_000)

    def act(self, turn: Turn) -> None:
        query = tuple((one.name, turn.render(one.value)) for one in self.query if one.name)
        headers = tuple((one.name, turn.render(one.value)) for one in self.headers if one.name)
        turn.do(CallWebhook(*turn.key, self.method, self.url, query, headers, turn.render(self.body)))
        turn.because("Asked for a {} request to {}.", self.method, host_of(self.url) or self.url)

    def connections(self) -> Iterator[tuple[str, str]]:
        if host := host_of(self.url):
            yield "host", host

    def faults(self) -> Iterator[Fault]:
        if not host_of(self.url):
            yield Fault("address-empty", "error", "No web address is named yet.")
        elif self.url.strip()[:5].lower() == "http:":
            mend = Mend("Use https", "set", "url", f"https{self.url.strip()[4:]}")
            sentence = "What it sends can be read on the way: the address is not https."
            yield Fault("address-open", "warning", sentence, mend)
        for text in (self.body, *(one.value for one in (*self.query, *self.headers))):
            for fault in faults(text):
                yield Fault("webhook-unreadable", "error", f"What it sends {fault}.")
        if any(one.name.strip().lower() == "authorization" for one in self.headers):
            sentence = "A key stands in the script, where everybody reads it. Put it in under Connections instead."
            yield Fault("key-in-script", "warning", sentence)
