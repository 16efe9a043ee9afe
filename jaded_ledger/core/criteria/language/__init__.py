"""Sentences about properties, read into criteria: deterministic, every word accounted for.

tokens → spans that mean something (``edges``) → the set of them that explains most (``chart``) → ``reading``.
"""
