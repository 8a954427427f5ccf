"""The lock against guessing: five wrong passwords for one name from one place lock that pair for a quarter of an hour (axes);
thirty from anywhere lock the name. So who knows somebody's address alone does not lock them out from where they sit."""

from datetime import timedelta

from axes.handlers.proxy import AxesProxyHandler
from axes.models import AccessAttempt
from django.conf import settings
from django.db.models import Sum
from django.http import HttpRequest
from django.utils import timezone

FROM_ANYWHERE = 30  # wrong passwords for one name in a quarter of an hour, wherever they come from
COOLS_OFF = timedelta(hours=settings.AXES_COOLOFF_TIME)


def is_locked(request: HttpRequest, email: str) -> bool:
    if AxesProxyHandler.is_locked(request, {"email": email}):
        return True
    tries = AccessAttempt.objects.filter(username=email, attempt_time__gt=timezone.now() - COOLS_OFF)
    return (tries.aggregate(total=Sum("failures_since_start"))["total"] or 0) >= FROM_ANYWHERE
