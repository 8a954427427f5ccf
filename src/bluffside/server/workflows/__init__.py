"""Drafts and versions of workflows, enrolments, and the engine's batches that carry the core's decisions out."""
