"""What is typed about a list."""

from __future__ import annotations

from typing import Any

from django import forms

from jaded_ledger.lists.models import ParcelList


class ListForm(forms.Form):
    """A list's name and what it is for."""

    name = forms.CharField(max_length=80)
    type = forms.ChoiceField(
        choices=ParcelList.Type.choices, initial=ParcelList.Type.REASON, widget=forms.Select(attrs={"class": "form-select"})
    )
    reason = forms.CharField(max_length=40, required=False, label="In a word", help_text="such as vacant, liens, life event")
    mark = forms.CharField(max_length=3, required=False, help_text="up to three letters that stand for it on a row")
    source_on = forms.DateField(required=False, label="Source of", widget=forms.DateInput(attrs={"type": "date"}))
    note = forms.CharField(required=False, max_length=2000, widget=forms.Textarea(attrs={"rows": 3}))

    @property
    def about(self) -> dict[str, Any]:
        """The list's values but its name."""
        return {key: value for key, value in self.cleaned_data.items() if key in ("type", "reason", "mark", "source_on", "note")}
