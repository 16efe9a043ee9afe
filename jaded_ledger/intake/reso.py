"""Names of the RESO Data Dictionary 2.0 for our columns, which follow it in lower case with underscores."""

from __future__ import annotations

_AS_THEY_ARE = {"yn": "YN"}
_WHOLE = {"resource_record_id": "ResourceRecordID"}


def reso_name(field: str) -> str:
    """Return the Data Dictionary's name of a column.

    >>> reso_name("list_agent_mls_id"), reso_name("waterfront_yn"), reso_name("resource_record_id")
    ('ListAgentMlsId', 'WaterfrontYN', 'ResourceRecordID')
    """
    return _WHOLE.get(field) or "".join(_AS_THEY_ARE.get(part, part.capitalize()) for part in field.split("_"))
