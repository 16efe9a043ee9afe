"""What is typed about a list."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Any

from django import forms
from django.core.validators import MaxLengthValidator

from jaded_ledger.core.criteria.catalogue.choices import key_of
from jaded_ledger.core.criteria.display import day_text
from jaded_ledger.core.distress.signals import SignalKind
from jaded_ledger.core.distress.urgency import LIST_WEIGHT, LONGEST_HALF_LIFE, MOST, Scale
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.records.clock import fault_of_day


class ListForm(forms.Form):
    """A list's name and what it is for."""

    # How long a name may be is said when it is too long; the browser would cut it.
    name = forms.CharField()
    type = forms.ChoiceField(
        choices=ParcelList.Type.choices, initial=ParcelList.Type.WORKING_SET, widget=forms.Select(attrs={"class": "form-select"})
    )
    reason = forms.CharField(
        validators=[MaxLengthValidator(40)], required=False, label="In a word", help_text="such as vacant, liens, life event"
    )
    mark = forms.CharField(validators=[MaxLengthValidator(3)], required=False, help_text="up to three letters that stand for it on a row")
    source_on = forms.DateField(required=False, label="Source of", widget=forms.DateInput(attrs={"type": "date"}))
    weight = forms.IntegerField(
        min_value=0,
        max_value=MOST,
        required=False,
        initial=LIST_WEIGHT,
        label="Points of urgency",
        help_text="that being on it adds, if it is a list of a reason",
    )
    note = forms.CharField(required=False, validators=[MaxLengthValidator(2000)], widget=forms.Textarea(attrs={"rows": 3}))

    def __init__(self, data: Any, today: date, **more: Any) -> None:
        super().__init__(data, **more)
        self._today = today

    def clean_source_on(self) -> date | None:
        day: date | None = self.cleaned_data["source_on"]
        if day and (fault := fault_of_day(day, self._today)):
            raise forms.ValidationError(f"{day_text(day)} {fault}; write the day the data are of.")
        return day

    @property
    def about(self) -> dict[str, Any]:
        """The list's values but its name, and but its points where none are typed."""
        return {key: value for key, value in self.cleaned_data.items() if key != "name" and not (key == "weight" and value is None)}


def _points(label: str, initial: int, most: int = MOST, least: int = 0) -> forms.IntegerField:
    attrs = {"inputmode": "numeric", "size": 4, "aria-label": label}
    return forms.IntegerField(label=label, min_value=least, max_value=most, initial=initial, widget=forms.TextInput(attrs=attrs))


class UrgencyForm(forms.Form):
    """What each sign and each list of a reason is worth, and in how many months that halves."""

    def __init__(self, data: Any, scale: Scale, lists: Sequence[ParcelList]) -> None:
        super().__init__(data)
        self.kinds = {key_of(kind): kind for kind in SignalKind}
        for key, kind in self.kinds.items():
            self.fields[key] = _points(f"points of {kind}", scale.weights[kind])
        for parcel_list in lists:
            self.fields[f"list-{parcel_list.pk}"] = _points(f"points of being on {parcel_list.name}", parcel_list.weight)
        self.fields["half_life"] = _points("months in which points halve", scale.half_life, LONGEST_HALF_LIFE, least=1)
        self.lists = lists

    @property
    def scale(self) -> Scale:
        """What was typed of signs."""
        return Scale({kind: self.cleaned_data[key] for key, kind in self.kinds.items()}, self.cleaned_data["half_life"])

    @property
    def of_lists(self) -> dict[int, int]:
        """What was typed of lists, by their ids."""
        return {parcel_list.pk: self.cleaned_data[f"list-{parcel_list.pk}"] for parcel_list in self.lists}
