"""How long files of people are kept."""

from bluffside.server.people.models import ContactImport
from bluffside.server.practice.keeping import Sort

OVER = (ContactImport.State.DONE, ContactImport.State.STOPPED, ContactImport.State.TAKEN_BACK)

UNSTARTED = Sort(
    "files",
    "files that were read and never brought in",
    1,
    lambda account, before: ContactImport.objects.filter(
        account=account, state=ContactImport.State.READ, read_at__lt=before
    ),
)
BROUGHT_IN = Sort(
    "imports",
    "files that came in, to be taken back",
    12,
    lambda account, before: ContactImport.objects.filter(account=account, state__in=OVER, ended_at__lt=before),
)
