"""Channels: opt-out words, telling answers apart, whether a channel is open, the parts of a text."""
