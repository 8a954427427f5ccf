"""What becomes of a reply beside what the script does by it."""

from dataclasses import dataclass
from typing import Literal

from bluffside.core.engine.effects import Effect


@dataclass(frozen=True, slots=True)
class TakeReply(Effect):
    """The script has answered it (`by`), or somebody of the team has to read it. `reply`: the number under which it is kept; decided only
    of those that are, so not in rehearsals."""

    reply: int
    needs_person: bool
    by: Literal["workflow", "assistant"] = "workflow"
