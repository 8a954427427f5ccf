"""The outbox and its delivery, what carriers report, what contacts write back, the links they click."""
