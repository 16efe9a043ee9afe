"""The reading copy: each county's facts once more, in columns, in a file that DuckDB reads.

PostgreSQL is where facts are kept; the copy answers questions that read much of a county sooner. It is written whenever a county's
facts change, under their version, and never overwritten. See docs/decisions/0051-a-reading-copy-in-columns.md.
"""
