"""Structured log lines: one JSON object a line, with the account and the enrolment where a line is about one."""

import json
import logging
from datetime import UTC, datetime

_OWN = frozenset(vars(logging.makeLogRecord({}))) | {"message", "asctime"}


class JsonLines(logging.Formatter):
    def format(self, record: logging.LogRecord) -> str:
        line = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(),
            "from": record.name,
            "says": record.getMessage(),
        }
        line |= {name: value for name, value in vars(record).items() if name not in _OWN}
        if record.exc_info:
            line["trace"] = self.formatException(record.exc_info)
        return json.dumps(line, ensure_ascii=False, default=str)
