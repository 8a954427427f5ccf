"""Email addresses as they are kept (RFC 5321 and 6531, by a library). No server is asked."""

from email_validator import EmailNotValidError, validate_email


def normalised(text: str) -> str:
    """In lower case, its domain normalised. Raises ValueError, in words."""
    try:
        return validate_email(text, check_deliverability=False).normalized.lower()
    except EmailNotValidError:
        raise ValueError(f"“{text}” is not an email address") from None
