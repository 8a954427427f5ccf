"""Voicemail: a recording left on the contact's mobile without ringing."""

from bluffside.core.channel_kinds.base import ChannelKind
from bluffside.core.channel_kinds.wording import Wording


class VoicemailMessage(Wording):
    """`body` is what the recording says."""


CHANNEL = ChannelKind(
    name="voicemail",
    rank=3,
    label="Voicemail",
    finds=("voicemail", "leave a message"),
    sentence="Leaves the voicemail {message}.",
    wording=VoicemailMessage,
    several="voicemail",
    address="mobile",
    no_address="no mobile number",
    reads="heard",
)
