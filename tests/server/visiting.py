"""What strangers do from outside: they open pages, fill in forms, and other systems bring leads."""

import json
import re
from typing import Any

from django.test import Client

from bluffside.server.capture.models import Form
from bluffside.server.practice import walls


def outside(path: str, data: dict[str, Any] | None = None, **more: Any) -> Any:
    """A request from outside, as somebody who is in no account, at the server's own address."""
    before = walls.scope()
    walls.leave()
    client = Client()
    answer = client.get(path, **more) if data is None else client.post(path, data, **more)
    walls.enter(*(int(id) for id in before[0].split(",")))
    return answer


def fill(form: Form, query: str = "", page: str = "", **answers: Any) -> Any:
    path = f"/f/{form.token}{query}"
    text = outside(path).content.decode()
    hidden = dict(re.findall(r'name="(hidden-\w+)" value="([^"]*)"', text))
    stamp = re.search(r'name="page" value="([^"]+)"', text)
    return outside(f"/f/{form.token}", {"page": page or (stamp[1] if stamp else ""), **hidden, **answers})


def lead_of(url: str, body: Any, **headers: str) -> Any:
    return outside(
        url.removeprefix("http://127.0.0.1:8000"),
        body if isinstance(body, bytes) else json.dumps(body),
        content_type="application/json",
        headers=headers,
    )
