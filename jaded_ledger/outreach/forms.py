"""What is asked before labels or a file are made."""

from __future__ import annotations

from django import forms

from jaded_ledger.core.mail.pieces import Addressing
from jaded_ledger.core.mail.sheets import SHEETS
from jaded_ledger.outreach.contact_columns import CONTACT_COLUMNS
from jaded_ledger.outreach.contact_file import FileLayout
from jaded_ledger.records.models import County
from jaded_ledger.records.own_columns import traits_of


class LabelForm(forms.Form):
    """Whom the labels are for, on which sheet, and from which position."""

    to = forms.ChoiceField(choices=[(one.value, one.words) for one in Addressing], initial=Addressing.OWNER_MAILING.value)
    sheet = forms.ChoiceField(choices=[(sheet.key, sheet.name) for sheet in SHEETS.values()], initial="letter-30")
    start = forms.IntegerField(min_value=1, initial=1)
    stale = forms.BooleanField(required=False)

    def clean(self) -> dict[str, object]:
        cleaned = super().clean() or {}
        sheet, start = SHEETS.get(str(cleaned.get("sheet"))), cleaned.get("start")
        if sheet and isinstance(start, int) and start > sheet.count:
            self.add_error("start", f"This sheet has {sheet.count} labels; begin at 1 to {sheet.count}.")
        return cleaned


class ContactFileForm(forms.Form):
    """Which columns a file has, of which rows, and in which form."""

    columns = forms.MultipleChoiceField(
        choices=lambda: [
            *((trait.key, trait.label) for trait in traits_of(County.objects.all())),
            *((column.key, column.label) for column in CONTACT_COLUMNS.values()),
        ],
        error_messages={"required": "Choose at least one column."},
    )
    bom = forms.BooleanField(required=False)
    one_per_owner = forms.BooleanField(required=False)
    a_column_a_list = forms.BooleanField(required=False)
    reading_case = forms.BooleanField(required=False)

    @property
    def layout(self) -> FileLayout:
        """The file that is asked for, its columns in the order in which they were chosen."""
        asked = self.cleaned_data
        columns = tuple(asked["columns"])
        return FileLayout(columns, asked["one_per_owner"], asked["a_column_a_list"], bom=asked["bom"], reading_case=asked["reading_case"])
