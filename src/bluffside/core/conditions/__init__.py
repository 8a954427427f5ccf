"""Conditions: one typed expression over a contact, read in several ways.

Each test `holds` or not, can `describe` itself in words, and gives the values `seen` when it was
decided. The server will compile the same expression to SQL for segments.
"""

from bluffside.core.conditions.expression import AllOf, AnyOf, Condition, FieldTest, NoneOf, ReachTest, TagTest

__all__ = ["AllOf", "AnyOf", "Condition", "FieldTest", "NoneOf", "ReachTest", "TagTest"]
