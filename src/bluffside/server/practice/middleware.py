"""Response headers that keep content from users and contacts from being run."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; "
    "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)


class ContentSecurityPolicy:
    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers.setdefault("Referrer-Policy", "same-origin")
        return response
