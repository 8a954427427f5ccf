"""Where requests to the stand-ins for outside services arrive. They look at the signature, as a real one should."""

import hmac
import json
import time

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_POST
from pydantic import ValidationError

from bluffside.server import sql
from bluffside.server.hooks.signing import known_key, signature
from bluffside.server.outside.services import ask
from bluffside.server.outside.stand_ins import STAND_INS
from bluffside.server.practice import installation
from bluffside.server.practice.models import Account

TOLERANCE = 300  # seconds
NOT_UNDERSTOOD = "this is not a request that a stand-in understands"


@csrf_exempt  # another system asks, with a signature in place of a session
@require_POST
def stand_in(request: HttpRequest, service: str) -> HttpResponse:
    if service not in STAND_INS or not installation.simulates("services"):
        return JsonResponse({"error": "there is no such service"}, status=404)
    try:
        body = json.loads(request.body)
        account = Account.objects.get(slug=sql.plain(str(body["account"]))[:200])
    except (ValueError, KeyError, TypeError, RecursionError, Account.DoesNotExist):
        return JsonResponse({"error": NOT_UNDERSTOOD}, status=400)
    key, when = request.headers.get("webhook-id", ""), request.headers.get("webhook-timestamp", "0")[:12]
    if not (signing_key := known_key(account)):  # nothing has been asked by this account, so nobody can have signed
        return JsonResponse({"error": "the signature does not fit"}, status=401)
    if not (when.isascii() and when.isdigit()):
        return JsonResponse({"error": "the signature does not fit"}, status=401)
    expected = signature(signing_key, key, int(when), request.body.decode("utf-8", "replace"))
    if not hmac.compare_digest(
        expected.encode(), request.headers.get("webhook-signature", "").encode("utf-8", "replace")
    ):
        return JsonResponse({"error": "the signature does not fit"}, status=401)
    if abs(time.time() - int(when)) > TOLERANCE:
        return JsonResponse({"error": "the request is too old"}, status=401)
    try:
        STAND_INS[service].takes.model_validate(body)
    except ValidationError:
        return JsonResponse({"error": NOT_UNDERSTOOD}, status=400)
    asked = ask(service, sql.plain(f"{account.slug}.{key}")[:160], account.slug, sql.kept(body))
    return JsonResponse({"taken": True, "again": asked.times > 1})
