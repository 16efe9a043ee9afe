"""What is typed of a client."""

from __future__ import annotations

from django import forms

from jaded_ledger.clients.models import Client


class ClientForm(forms.ModelForm):
    """Who a client is and what they say they want."""

    class Meta:
        model = Client
        fields = (
            "name", "email", "telephone", "where", "where_not", "how_many", "how_fast", "paying", "limits", "note", "is_left_out",
        )  # fmt: skip
        labels = {
            "email": "E-mail",
            "where": "Where",
            "where_not": "Where not",
            "how_many": "How many",
            "how_fast": "How fast",
            "paying": "Paying",
            "is_left_out": "Leave out when a new listing is matched with clients",
        }
        widgets = {"note": forms.Textarea(attrs={"rows": 3})}

    def __init__(self, *args: object, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)  # type: ignore[arg-type]
        for field in self.fields.values():
            kind = "form-select" if isinstance(field.widget, forms.Select) else "form-control"
            field.widget.attrs["class"] = "form-check-input" if isinstance(field.widget, forms.CheckboxInput) else kind
