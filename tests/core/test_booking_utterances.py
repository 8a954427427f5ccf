"""The table of what people write when they are asked to come (booking_utterances.tsv, written before anything read it): that it is well formed,
and how far the reader of short answers gets with it. A third is set aside by a seed: of it nothing but the score is looked at."""

import random
import re
from datetime import date, time
from pathlib import Path
from typing import NamedTuple

from bluffside.core.channels.answers import is_opt_out, read
from bluffside.core.timing.weekdays import WEEKDAYS

TABLE = Path(__file__).parent / "booking_utterances.tsv"
CONTEXTS = ("opening", "offered", "asked", "booked")
PLAIN = {
    "yes", "no", "later", "stop", "who", "call", "person", "angry", "ack", "cancel", "none", "move", "unclear",
    "take:1", "take:2", "take:3",
    *(f"ask:{about}" for about in ("price", "where", "long", "with", "bring", "level", "other")),
}  # fmt: skip
SEED, ASIDE = 23, 1 / 3
FLOOR = 0.7  # 0.74 and 0.84 when it was first looked at


class Row(NamedTuple):
    context: str
    said: str
    reading: str


def rows_of(table: Path) -> list[Row]:
    return [Row(*line.split("\t")) for line in table.read_text().splitlines() if not line.startswith("#")]


ROWS = rows_of(TABLE)


def parts() -> tuple[list[Row], list[Row]]:
    """What is worked with, and what is set aside."""
    mixed = random.Random(SEED).sample(ROWS, len(ROWS))  # the same each time
    cut = round(len(mixed) * ASIDE)
    return mixed[cut:], mixed[:cut]


def is_window(text: str) -> bool:
    days, at, times = text.partition("@")
    whole = re.fullmatch(r"\*|[a-z]{3}(\+[a-z]{3})*|(\d{4}-\d\d-\d\d)(\.\.(\d{4}-\d\d-\d\d))?", days)
    if not whole or (days[0].isalpha() and not set(days.split("+")) <= set(WEEKDAYS)):
        return False
    ends = [date.fromisoformat(one) for one in re.findall(r"\d{4}-\d\d-\d\d", days)]
    clock = [time.fromisoformat(one) for one in times.split("-") if one]
    return ends == sorted(ends) and clock == sorted(clock) and bool(clock) == bool(at) and len(times.split("-")) <= 2


def test_the_table_is_well_formed_and_large_enough_to_judge_by() -> None:
    assert len(ROWS) >= 400
    assert len({row[:2] for row in ROWS}) == len(ROWS)
    for row in ROWS:
        assert row.context in CONTEXTS, row
        kind, _, windows = row.reading.partition(":")
        good = kind in ("want", "move") and windows and all(map(is_window, windows.split(",")))
        assert good or row.reading in PLAIN, row
    assert sum(row.reading == "unclear" for row in ROWS) >= 40, "what may be read in two ways books nothing"
    worked, aside = parts()
    assert not set(worked) & set(aside) and len(aside) >= 130


def test_nobody_is_opted_out_who_did_not_ask_for_it_and_everybody_who_did_is_heard() -> None:
    """47 CFR 64.1200(a)(10): any reasonable way of saying so. What is not sure is for a person to look at."""
    assert [row for row in ROWS if row.reading != "stop" and is_opt_out(row.said)] == []
    missed = [row for row in ROWS if row.reading == "stop" and read(row.said).meaning != "out"]
    assert missed == []


def test_how_far_short_answers_are_read_already() -> None:
    """Of what is a plain answer to the opening, in the part that is worked with and in the other: a floor that must not fall."""
    plain = {"yes": "yes", "no": "no", "later": "later", "stop": "out"}
    scores = []
    for rows in parts():
        asked = [row for row in rows if row.context == "opening" and row.reading in plain]
        scores.append(sum(read(row.said).meaning == plain[row.reading] for row in asked) / len(asked))
    assert min(scores) >= FLOOR, scores
