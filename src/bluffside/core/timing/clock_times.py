"""Times of day in documents, written "09:30"."""

from datetime import time
from typing import Annotated

from pydantic import PlainSerializer

ClockTime = Annotated[time, PlainSerializer(lambda value: value.strftime("%H:%M"), return_type=str)]
