"""Listings and photographs, which may be of a property that no record holds yet."""

from __future__ import annotations

import hashlib
import io
from collections.abc import Sequence

from PIL import Image, UnidentifiedImageError

from jaded_ledger.core.picture_preview import MOST_PIXELS
from jaded_ledger.intake.batches import CountyIntake, Refused, SourceLine
from jaded_ledger.intake.columns import Column, extra
from jaded_ledger.intake.drafts import Draft
from jaded_ledger.intake.filing import Filing
from jaded_ledger.intake.reso import reso_name
from jaded_ledger.intake.stored_once import stored_once
from jaded_ledger.records.models import Listing, Photograph, StoredImage

_TYPES = {"PNG": "image/png", "JPEG": "image/jpeg", "WEBP": "image/webp"}


class Listings(Filing):
    """Listings, by RESO names. One whose parcel is not on record is kept all the same."""

    needs_parcel = False
    may_begin = True
    address_columns = ("UnparsedAddress", "UnitNumber", "City", "PostalCode")
    point_columns = ("Latitude", "Longitude")

    def __init__(self) -> None:
        super().__init__("listings", "listings (RESO Data Dictionary names)", Listing, naming=reso_name)


class Photographs(Filing):
    """Photographs, named by their listing or, where that is not on record, by their parcel."""

    needs_parcel = False
    address_columns = ()

    def __init__(self) -> None:
        super().__init__("photographs", "photographs in folders named by listing or parcel", Photograph)

    @property
    def described(self) -> tuple[Column, ...]:
        of_model = {column.name: column for column in self._columns}
        folder = extra("folder", "a folder named by listing or parcel", is_required=True)
        return (folder, of_model["order"], of_model["caption"], extra("image", "a PNG, JPEG or WebP picture", is_required=True))

    def read(self, county_intake: CountyIntake, line: SourceLine) -> Draft:
        content = line.cells["image"]
        try:
            with Image.open(io.BytesIO(content)) as image:
                form, size = image.format, image.size
                image.verify()
        except (UnidentifiedImageError, OSError, SyntaxError, Image.DecompressionBombError):
            raise line.refuse("folder", "holds a file that is not an image") from None
        if size[0] * size[1] > MOST_PIXELS:
            raise line.refuse("folder", f"holds an image of more than {MOST_PIXELS // 1_000_000} megapixels")
        if form not in _TYPES:
            raise line.refuse("folder", f"holds an image that is none of {', '.join(_TYPES)}")
        draft = super().read(county_intake, line)
        draft.values["image_id"] = (hashlib.sha256(content).hexdigest(), _TYPES[form], *size, content)
        return draft

    def admit(self, county_intake: CountyIntake, drafts: list[Draft]) -> tuple[list[Draft], dict[str, int], Refused]:
        """A folder is called after a listing; else after a parcel."""
        folders = {draft.line.text("folder") for draft in drafts}
        listed = set(
            Listing.objects.filter(county=county_intake.county, superseded_at=None, listing_id__in=folders).values_list(
                "listing_id", flat=True
            )
        )
        for draft in drafts:
            folder = draft.line.text("folder")
            draft.values["listing_id"] = folder if folder in listed else ""
            draft.keys = (
                [] if folder in listed else self._parcel_keys(county_intake, SourceLine(draft.line.number, {"parcel_number": folder}))
            )
        parcels = self.find_parcels(county_intake, drafts)
        found = [draft for draft in drafts if draft.values["listing_id"] or parcels.keys() & set(draft.keys)]
        refused = [(one.line, one.line.refuse("folder", "is neither a listing nor a parcel on record")) for one in set(drafts) - set(found)]
        return found, parcels, refused

    def look_up(self, county_intake: CountyIntake, drafts: Sequence[Draft], parcels: dict[str, int]) -> None:
        super().look_up(county_intake, drafts, parcels)
        names = ("sha256", "content_type", "width", "height", "content")
        known = stored_once(StoredImage, names, (draft.values["image_id"] for draft in drafts))
        for draft in drafts:
            draft.values["image_id"] = known[draft.values["image_id"][0]]
