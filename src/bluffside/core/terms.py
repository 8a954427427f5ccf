"""Terms of the trade that most of the core uses: channels and purposes."""

from typing import Literal

Channel = Literal["email", "text", "voicemail", "letter", "push", "social"]
CHANNELS: tuple[Channel, ...] = ("email", "text", "voicemail", "letter", "push", "social")
TwoWay = Literal["email", "text"]  # the channels on which a contact can answer
TWO_WAY: tuple[TwoWay, ...] = ("email", "text")
Purpose = Literal["marketing", "service"]
PURPOSES: tuple[Purpose, ...] = ("marketing", "service")

# "by text", "opted out of texts"
SEVERAL: dict[Channel, str] = {
    "email": "email",
    "text": "texts",
    "voicemail": "voicemail",
    "letter": "letters",
    "push": "push notices",
    "social": "social messages",
}
NO_ADDRESS: dict[Channel, str] = {
    "email": "no email address",
    "text": "no mobile number",
    "voicemail": "no mobile number",
    "letter": "no postal address",
    "push": "no device for push notices",
    "social": "no social handle",
}
# The contact's field that holds the address of a channel.
ADDRESS_OF: dict[Channel, str] = {
    "email": "email",
    "text": "mobile",
    "voicemail": "mobile",
    "letter": "post",
    "push": "push",
    "social": "social",
}
