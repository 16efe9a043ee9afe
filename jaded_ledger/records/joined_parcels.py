"""What a team keeps of a parcel that was begun at its address, moved to the parcel whose number has become known."""

from __future__ import annotations

from django.db.models import Model


def move_rows(model: type[Model], name: str, beside: tuple[str, ...], before: int, after: int) -> None:
    """Have rows be of another parcel; where that has such a row already, its own stands.

    ``name`` is the column of the parcel, ``beside`` are those that a row is unique by together with it.
    """
    rows = model._default_manager
    taken = set(rows.filter(**{name: after}).values_list(*beside))
    for pk, *values in rows.filter(**{name: before}).values_list("pk", *beside):
        row = rows.filter(pk=pk)
        if tuple(values) in taken:
            row.delete()
        else:
            row.update(**{name: after})
