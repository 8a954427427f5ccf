"""What holds for all tests: hypothesis says nothing about time, since a busy machine is not a wrong result. A build
server plays the same examples each time, so that it fails for a change and not by chance; elsewhere they are new ones."""

import os

from hypothesis import HealthCheck, settings

settings.register_profile(
    "bluffside",
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow],
    derandomize="CI" in os.environ,
)
settings.load_profile("bluffside")
