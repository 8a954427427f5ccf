"""Measuring: ./bluffside bench."""
