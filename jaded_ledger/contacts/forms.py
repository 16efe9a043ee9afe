"""What is asked before a file is made."""

from __future__ import annotations

from django import forms

from jaded_ledger.contacts.contact_columns import CONTACT_COLUMNS
from jaded_ledger.contacts.contact_file import FileForm, FileLayout, Per
from jaded_ledger.core.phone_numbers import Dialing
from jaded_ledger.records.models import County
from jaded_ledger.records.own_columns import traits_of


class ContactFileForm(forms.Form):
    """Which columns a file has, of which rows, and in which form."""

    columns = forms.MultipleChoiceField(
        choices=lambda: [
            *((trait.key, trait.label) for trait in traits_of(County.objects.all())),
            *((column.key, column.label) for column in CONTACT_COLUMNS.values()),
        ],
        error_messages={"required": "Choose at least one column."},
    )
    form = forms.ChoiceField(choices=[(one.value, one.words) for one in FileForm], initial=FileForm.CSV.value, required=False)
    bom = forms.BooleanField(required=False)
    per = forms.ChoiceField(choices=[(one.value, one.words) for one in Per], initial=Per.PARCEL.value, required=False)
    a_column_a_list = forms.BooleanField(required=False)
    dialing = forms.ChoiceField(choices=[(one.value, one.words) for one in Dialing], required=False)
    reading_case = forms.BooleanField(required=False)

    @property
    def layout(self) -> FileLayout:
        """The file that is asked for, its columns in the order in which they were chosen."""
        asked = self.cleaned_data
        columns = tuple(asked["columns"])
        return FileLayout(
            columns,
            Per(asked["per"] or Per.PARCEL),
            asked["a_column_a_list"],
            bom=asked["bom"],
            dialing=Dialing(asked["dialing"] or Dialing.NATIONAL),
            reading_case=asked["reading_case"],
        )
