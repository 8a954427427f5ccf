"""Figures for Prometheus, by prometheus_client: what this process did, and how the whole installation is.

A worker shows its own batches at its port (`work --metrics-port`); the web server shows the queues and messages of
the installation at /metrics, read from the database when asked.
"""

from collections.abc import Iterator

from django.utils import timezone
from prometheus_client import Counter, Histogram
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.registry import Collector

from bluffside.server import sql
from bluffside.server.practice import clock

_seconds = Histogram(
    "bluffside_batch_seconds",
    "How long a batch took",
    ["work"],
    buckets=(0.005, 0.02, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 10),
)
_done = Counter("bluffside_batch_rows", "What batches dealt with", ["work"])
_failed = Counter("bluffside_batch_failures", "Batches that were undone and come again", ["work"])

FAMILIES = {
    "queue_length": ("bluffside_queue_length", "Work that is due", "work"),
    "queue_age": ("bluffside_queue_age_seconds", "How long the oldest due work has waited", "work"),
    "set_aside": ("bluffside_set_aside", "What failed and waits for a person", "what"),
    "messages": ("bluffside_messages_waiting", "Messages that wait for a person", "state"),
    "messages_sent_day": (
        "bluffside_messages_day",
        "Messages handed over in the last day, by what became of them",
        "state",
    ),
    "workers": ("bluffside_workers", "Workers seen in the last half minute", "none"),
    "rest_rows": ("bluffside_rows_without_month", "Rows whose month was not made in time", "table"),
}


def batch_done(work: str, rows: int, seconds: float) -> None:
    _seconds.labels(work).observe(seconds)
    _done.labels(work).inc(rows)


def batch_failed(work: str) -> None:
    _failed.labels(work).inc()


def figures() -> list[tuple[str, str, float]]:
    """How the installation is: (what, of what, number)."""
    query = "SELECT name, label, value FROM bluffside_figures(%s, %s)"
    return [(name, label, float(value)) for name, label, value in sql.rows(query, [clock.now(), timezone.now()])]


class Installation(Collector):
    """Asks the database when Prometheus asks."""

    def collect(self) -> Iterator[GaugeMetricFamily]:
        families = {
            name: GaugeMetricFamily(full, words, labels=[label]) for name, (full, words, label) in FAMILIES.items()
        }
        for name, label, value in figures():
            families[name].add_metric([label], value)
        yield from families.values()
