"""Watching searches: what is told, when, and how often."""
