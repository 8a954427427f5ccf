"""Workers killed at random moments, the database pulled down, the carrier answering late, twice or never: each message
once, none missing, nothing stuck. The short form of ./bluffside soak."""

import os
import subprocess
import sys

from django.conf import settings


def test_each_message_goes_once_whatever_dies() -> None:
    command = [sys.executable, "-m", "bench.soak", "--seconds", "8", "--kills", "4", "--restarts", "1"]
    env = os.environ | {"PYTHONPATH": f"{settings.ROOT / 'src'}:{settings.ROOT}"}
    done = subprocess.run(
        [*command, "--people", "200", "--seed", "4"], env=env, cwd=settings.ROOT, capture_output=True, text=True
    )
    assert done.returncode == 0, done.stdout + done.stderr
    assert "4 workers killed, database pulled down 1 times" in done.stdout
