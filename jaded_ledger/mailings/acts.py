"""What of mailings not everybody may do."""

from __future__ import annotations

from jaded_ledger.accounts.roles import Act

REPLIES = Act("replies", "note what came of a piece", "it sees what came of mailings, and notes nothing")
PRICES = Act("prices", "set prices and printers", "it sees prices and printers, and sets none")
LETTERS = Act("letters", "write letters and postcards", "it reads letters, and writes none")
SERIES = Act("series", "begin and end series of mailings", "it sees series, and begins or ends none")
ACTS = (REPLIES, PRICES, LETTERS, SERIES)
