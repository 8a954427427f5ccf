"""Deals on pipelines, and what becomes of them."""
