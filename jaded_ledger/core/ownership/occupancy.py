"""Does the owner live there? Told from the mailing address, common practice."""

from __future__ import annotations

from jaded_ledger.core.mail.addresses import Address, AddressKind

_FETCHED = (AddressKind.PO_BOX, AddressKind.GENERAL_DELIVERY)


def is_owner_occupied(situs: Address | None, mailing: Address | None, *, homestead: bool | None, is_condominium: bool) -> bool | None:
    """Return whether the owner occupies the property, or None when it can't be known.

    Occupied with a homestead exemption on the roll, or when the tax bill goes to the property itself;
    units must agree only on condominiums where both are given. Unknown without a mailing address, without a
    situs to compare it with, and for a box or general delivery in the property's own ZIP: the owner may live there and
    fetch the mail.
    """
    if homestead:
        return True
    if mailing is None or not mailing.street:
        return None
    if mailing.kind in _FETCHED:
        if situs is None or not (situs.zip5 and mailing.zip5):
            return None
        return None if mailing.zip5 == situs.zip5 else False
    if situs is None or not situs.street or mailing.kind is AddressKind.UNREADABLE:
        return None
    if not mailing.is_same_building(situs):
        return False
    return not (is_condominium and situs.unit and mailing.unit and not situs.is_same_door(mailing))
