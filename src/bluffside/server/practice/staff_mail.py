"""Mail to those who work here: invitations, new passwords, codes, what happened to one's own way in. It is kept first, its
words sealed, and a worker hands it over (messaging.staff_mailing); once it is gone its words are gone, too."""

from bluffside.server.practice import clock
from bluffside.server.practice.models import StaffMail
from bluffside.server.practice.sealing import seal
from bluffside.server.wake import wake


def write(to: str, subject: str, text: str) -> None:
    StaffMail.objects.create(
        address=to, subject=subject[:200], sealed=seal(text), made_at=clock.now(), next_try_at=clock.now()
    )
    wake("staff mail")
