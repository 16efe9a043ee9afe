"""What is typed about a saved search."""

from __future__ import annotations

from django import forms


class SearchForm(forms.Form):
    """A search's name, where it is kept and who has it. How long a text may be is said when it is too long; the browser would cut it."""

    name = forms.CharField(required=False)
    folder = forms.CharField(
        required=False, help_text="searches of one folder stand together", widget=forms.TextInput(attrs={"list": "folders"})
    )
    note = forms.CharField(required=False, help_text="what it is for")
    shared = forms.BooleanField(required=False, label="Shared with the team")
    protected = forms.BooleanField(required=False, label="Only I change it")
