"""Why something was not taken, field by field, so that each can be said beside what it is about."""

from collections.abc import Mapping

from ninja.errors import HttpError


class BadFields(HttpError):
    """Nothing was changed; `faults` are sentences, by field."""

    def __init__(self, faults: Mapping[str, str]) -> None:
        super().__init__(422, " ".join(faults.values()))
        self.faults = dict(faults)
