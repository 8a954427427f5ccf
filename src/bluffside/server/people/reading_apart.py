"""A file that somebody sent is read in a process of its own, with limits on memory and time: whatever is in it, the web
server goes on. It is handed the bytes, and answers the table as JSON.
"""

import json
import resource
import subprocess
import sys
from dataclasses import asdict

from bluffside.server.people.spreadsheet import BadSpreadsheet
from bluffside.server.people.tables import Table, read_table, read_text

MEMORY = 3 * 1024**3  # bytes of addresses; 200,000 rows of 60 cells fit
SECONDS = 60
TOO_MUCH = (
    "This file asks for more memory or time than a file of people may. Save it as CSV with the rows of people alone."
)


def read_apart(data: bytes, pasted: bool = False) -> Table:
    """As tables.read_table does, or read_text for what was `pasted`. Raises BadSpreadsheet."""
    command = [sys.executable, "-m", "bluffside.server.people.reading_apart", *(["pasted"] if pasted else [])]
    try:
        done = subprocess.run(command, input=data, capture_output=True, timeout=SECONDS * 2)  # noqa: S603  # our own program
    except subprocess.TimeoutExpired:
        raise BadSpreadsheet(TOO_MUCH) from None
    if done.returncode:
        raise BadSpreadsheet(TOO_MUCH)
    answer = json.loads(done.stdout)
    if "fault" in answer:
        raise BadSpreadsheet(answer["fault"])
    return Table(**answer)


def main(pasted: bool) -> None:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))
    data = sys.stdin.buffer.read()
    try:
        answer = asdict(read_text(data.decode()) if pasted else read_table(data))
    except BadSpreadsheet as error:
        answer = {"fault": str(error)}
    except MemoryError:
        answer = {"fault": TOO_MUCH}
    json.dump(answer, sys.stdout)


if __name__ == "__main__":
    main(pasted=sys.argv[1:] == ["pasted"])
