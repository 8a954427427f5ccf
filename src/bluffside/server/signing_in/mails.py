"""What is written to those who sign in, in our words: by the name that allauth gives each of its mails."""

from collections.abc import Mapping
from typing import Any, NamedTuple


class Words(NamedTuple):
    """Formats of `link`, `name`, `email`, `ip`, `browser`, `old` and `new`."""

    subject: str
    text: str


NOT_YOU = "\n\nIf that was not you, set a new password by “Forgotten your password?” where one signs in, and tell your practice."
FROM = "\n\nIt was done from {ip}, with {browser}."

MAILS: Mapping[str, Words] = {
    "account/email/password_reset_key": Words(
        "A new password",
        "Somebody, probably you, asked for a new password for {email}. Set it here, within an hour:\n\n{link}\n\n"
        "If you did not ask, do nothing: the password you have stays.",
    ),
    "account/email/email_confirmation": Words(
        "Is this your address?",
        "Say that {email} is yours, and you sign in with it from then on:\n\n{link}\n\n"
        "If you did not ask for this, do nothing.",
    ),
    "account/email/email_confirmation_signup": Words("Is this your address?", "Say that {email} is yours:\n\n{link}"),
    "account/email/account_already_exists": Words(
        "You sign in here already",
        "Somebody, probably you, wanted to sign in with {email} from now on. Another person here does that already, so "
        "nothing was changed.",
    ),
    "account/email/password_changed": Words(
        "Your password was changed", "Your password was changed, and wherever else you were signed in, you are no more." + FROM + NOT_YOU
    ),
    "account/email/password_set": Words("Your password was set", "Your password was set." + FROM + NOT_YOU),
    "account/email/password_reset": Words(
        "You have a new password", "A new password was set by the link you were sent." + FROM + NOT_YOU
    ),
    "account/email/email_changed": Words(
        "You sign in with another address now", "You sign in with {new} from now on, and no more with {old}." + FROM + NOT_YOU
    ),
    "account/email/email_confirm": Words("Your address is confirmed", "{email} was confirmed to be yours." + FROM + NOT_YOU),
    "account/email/email_deleted": Words("An address was taken away", "{email} was taken away from you." + FROM + NOT_YOU),
    "mfa/email/totp_activated": Words(
        "Signing in asks for a code now", "An authenticator app was set up: signing in asks for its code." + FROM + NOT_YOU
    ),
    "mfa/email/totp_deactivated": Words(
        "Signing in asks for no code any more", "Your authenticator app was taken away." + FROM + NOT_YOU
    ),
    "mfa/email/recovery_codes_generated": Words(
        "You have new recovery codes", "New recovery codes were made; those before are worth nothing now." + FROM + NOT_YOU
    ),
    "mfa/email/webauthn_added": Words("A passkey was added", "You can sign in with another passkey." + FROM + NOT_YOU),
    "mfa/email/webauthn_removed": Words("A passkey was taken away", "A passkey of yours opens nothing any more." + FROM + NOT_YOU),
    "new_place": Words("You signed in from somewhere new", "You have signed in from {ip}, with {browser}, for the first time." + NOT_YOU),
    "second_steps_cleared": Words(
        "You can sign in with your password alone",
        "{name} has taken your authenticator, passkeys and recovery codes away, as you had lost them. Set them up anew once "
        "you have signed in.",
    ),
}  # fmt: skip


def written(name: str, context: Mapping[str, Any]) -> Words:
    """Raises KeyError for a mail that has no words."""
    words, known = MAILS[name], {key: str(value) for key, value in context.items() if value is not None}
    given = {key: known.get(key, "") for key in ("link", "name", "email", "ip", "browser", "old", "new")}
    return Words(*(part.format(**given) for part in words))
