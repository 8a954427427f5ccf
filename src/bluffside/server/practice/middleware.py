"""What every request goes through: leaving the accounts it entered, and headers that keep content from being run."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, HttpResponseNotFound

from bluffside.server.practice import walls

POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; "
    "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)


class Walls:
    """A connection is used by one request after another: each leaves what it entered, whatever happens."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if "\0" in request.path or "%00" in request.META.get("QUERY_STRING", ""):
            return HttpResponseNotFound("There is nothing here.")  # no address has it, and no database looks it up
        before = walls.scope()
        try:
            return self.get_response(request)
        finally:
            walls.return_to(before)


class ContentSecurityPolicy:
    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers.setdefault("Referrer-Policy", "same-origin")
        if request.path.startswith("/api/"):  # people's data is nothing for a cache
            response.headers.setdefault("Cache-Control", "no-store")
        return response
