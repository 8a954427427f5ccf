"""What holds for all tests: hypothesis says nothing about time, since a busy machine is not a wrong result."""

from hypothesis import HealthCheck, settings

settings.register_profile("bluffside", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("bluffside")
