"""What holds for all tests: hypothesis says nothing about time, since a busy machine is not a wrong result."""

from hypothesis import settings

settings.register_profile("bluffside", deadline=None)
settings.load_profile("bluffside")
