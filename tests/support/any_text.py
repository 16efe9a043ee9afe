"""Any text and any JSON, and more often those that come close to what is read (for Hypothesis)."""

from __future__ import annotations

from hypothesis import strategies as st

_WORDS = (
    "..", ";", "not", "any of", '"', ":", ",", "~", "ask", "none", "unknown", "known", "today", "in the last", "years ago", "before",
    "more than", "at least", "between", "and", "3", "-1", "1e9", "12%", "$5k", "2026-02-30", "9999-12-31", "1/2", "mi of", "point",
    "within", "\t", "\n", "  ", "&", "PO BOX", "RR 2", "#4", "LLC", "TR", "ET UX", "N 1/2", "c/o", "*", "?", "٣", "²", "\u202e", "\ufeff",
)  # fmt: skip
any_text = st.one_of(st.text(max_size=80), st.lists(st.one_of(st.sampled_from(_WORDS), st.text(max_size=6)), max_size=12).map(" ".join))
any_json = st.recursive(
    st.one_of(st.none(), st.booleans(), st.integers(), st.floats(), st.text(max_size=8)),
    lambda inner: st.one_of(st.lists(inner, max_size=4), st.dictionaries(st.text(max_size=6), inner, max_size=4)),
    max_leaves=12,
)
