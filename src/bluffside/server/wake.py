"""Asking for background work, in the transaction that makes it due.

A job is only a wake-up: the rows are the truth. One that is lost is made up for by the sweep that
runs every few seconds, one too many finds nothing to do (see worker.py).
"""

from typing import Literal

from procrastinate.contrib.django import app

Work = Literal["dispatch", "advance", "deliver", "receipts", "import"]
TASK = "bluffside.work"


def wake(work: Work) -> None:
    app.configure_task(TASK).defer(work=work)
