"""What a page says: its text as a browser would show it, whatever tags and line breaks stand between the words."""

from __future__ import annotations

import re
from html import unescape


def page_text(content: bytes | str) -> str:
    page = content.decode() if isinstance(content, bytes) else content
    return " ".join(unescape(re.sub(r"<[^>]+>", " ", page)).split())
