"""What is asked on the pages of Records, and what it is checked for."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms

from jaded_ledger.core.criteria.parcel_numbers import ParcelNumberError, mask
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.intake.cells import plain_word
from jaded_ledger.intake.drafts import COUNTY
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.mapping import ColumnMap, MappingError, column_map_from
from jaded_ledger.intake.models import Upload
from jaded_ledger.intake.services import IntakeError
from jaded_ledger.intake.uploads import begins, day_of
from jaded_ledger.records.models import County

LEFT_OUT = "-"
LAYOUT = ("encoding", "delimiter", "header_line", "sheet")


class CountyForm(forms.ModelForm):
    """A county whose records are to be taken in."""

    class Meta:
        model = County
        labels = {
            "fips": "FIPS code, if files name it so",
            "parcel_number_mask": "Form of its parcel numbers",
            "relisting_gap_days": "Relisting gap, days",
        }  # fmt: skip
        fields = ("name", "state", "fips", "parcel_number_mask", "assessment_ratio", "relisting_gap_days")

    def clean_parcel_number_mask(self) -> str:
        text = str(self.cleaned_data["parcel_number_mask"]).strip().upper()
        try:
            mask(text)
        except ParcelNumberError as error:
            raise forms.ValidationError(f"{error}.") from None
        return text

    def clean_state(self) -> str:
        state = str(self.cleaned_data["state"]).upper()
        if len(state) != 2 or not state.isalpha():
            raise forms.ValidationError("A state is written with its two letters, such as WI.")
        return state

    def clean_name(self) -> str:
        name = " ".join(str(self.cleaned_data["name"]).split()).removesuffix(" County")
        if any(mark in name for mark in "/,:;"):
            raise forms.ValidationError("A county's name has none of / , : ; in it.")
        return name


def apply(upload: Upload, given: Mapping[str, str]) -> tuple[set[str], list[str]]:
    """Put what a form says into an upload; return what changed of kind, county and layout, and what is wrong with the rest.

    The columns are taken from the form only where none of these changed: they would be of another file.
    """
    changed: set[str] = set()
    wrong: list[str] = []
    kind = given.get("kind", upload.kind)
    if kind != upload.kind:
        if kind in KINDS:
            upload.kind = kind
            changed.add("kind")
        else:
            wrong.append(f"There is no kind of file {kind!r}.")
    if COUNTY in given:
        county = County.objects.filter(pk=whole_number(given[COUNTY]) or 0).first()
        if county != upload.county:
            upload.county = county
            changed.add(COUNTY)
    if "as_of" in given:
        try:
            upload.as_of = day_of(given["as_of"])
        except IntakeError as error:
            wrong.append(str(error))
        upload.is_complete = given.get("is_complete") == "1"
        upload.may_end_most = upload.is_complete and "may_end_most" in given
    if "says_begins" in given and (is_said := given.get("begins") == "1") != begins(upload):
        upload.begins = is_said
    said = {name: given[name] for name in LAYOUT if given.get(name)}
    if any(str(upload.layout.get(name, 1 if name == "header_line" else "")) != value for name, value in said.items()):
        upload.layout = {**upload.layout, **said}
        changed.add("layout")
    if upload.kind and not changed and any(key.startswith("fills:") for key in given):
        try:
            upload.columns = _column_map(upload, given).as_json()
        except MappingError as error:
            wrong.append(f"{str(error)[:1].upper()}{str(error)[1:]}.")
    return changed, wrong


def _column_map(upload: Upload, given: Mapping[str, str]) -> ColumnMap:
    """Return the mapping that a form says. Raises MappingError."""
    targets: dict[str, str | None] = {}
    for place, name in enumerate(upload.header):
        target = given.get(f"fills:{place}")
        if target is not None:
            targets[name] = None if target == LEFT_OUT else target
    words = {column: dict(table) for column, table in (upload.columns.get("words") or {}).items()}
    for key, theirs in given.items():
        what, _, rest = key.partition(":")
        if what == "theirs":
            # Words that the first rows don't hold are not asked about, and stay as they were.
            column = rest.rpartition(":")[0]
            table = words.setdefault(column, {})
            table.pop(plain_word(theirs), None)
            if ours := given.get(f"word:{rest}"):
                table[theirs] = ours
    said: dict[str, Any] = {"columns": targets, "words": words}
    for part in ("fixed", "times"):
        said[part] = {key.partition(":")[2]: value.strip() for key, value in given.items() if key.startswith(f"{part}:") and value.strip()}
    said["day_first"] = [key.partition(":")[2] for key, value in given.items() if key.startswith("day_first:") and value]
    if given.get("fix_what") and given.get("fix_as", "").strip():
        said["fixed"][given["fix_what"]] = given["fix_as"].strip()
    return column_map_from(said, KINDS[upload.kind])
