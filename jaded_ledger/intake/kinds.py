"""The kinds of file that can be taken in, each filling one model of the records."""

from __future__ import annotations

from jaded_ledger.intake.areas import Areas, TaxRates
from jaded_ledger.intake.contacts import Contacts
from jaded_ledger.intake.deeds import Deeds
from jaded_ledger.intake.filing import Filing
from jaded_ledger.intake.listings import Listings, Photographs
from jaded_ledger.intake.papers import Papers
from jaded_ledger.intake.reso import reso_name
from jaded_ledger.intake.roll import Roll
from jaded_ledger.intake.shapes import Shapes
from jaded_ledger.records import models

KINDS: dict[str, Filing] = {
    kind.name: kind
    for kind in (
        Shapes(),
        Roll(),
        Areas(),
        Filing("layers", "roads, water, rail, flood zones, parks and barriers", models.MapFeature),
        Filing("projects", "condominium and co-operative projects", models.Project),
        Filing("buildings", "buildings as measured", models.Building),
        Filing("units", "dwelling units", models.Unit),
        Deeds(),
        Filing("loans", "recorded mortgages", models.Loan),
        Filing("loan-events", "releases and assignments of loans", models.LoanEvent),
        Filing("liens", "involuntary liens", models.Lien),
        Filing("lien-releases", "releases of liens", models.LienRelease),
        Filing("tax-years", "tax bills by year", models.TaxYear),
        TaxRates(),
        Filing("exemptions", "exemptions from tax", models.Exemption),
        Filing("cases", "court cases", models.CourtCase),
        Filing("case-parties", "parties of court cases", models.CaseParty),
        Filing("case-documents", "papers filed in court cases", models.CaseDocument),
        Papers(),
        Filing("foreclosures", "steps of foreclosures", models.ForeclosureStep),
        Filing("auctions", "public sales", models.Auction),
        Filing("permits", "building permits", models.Permit),
        Filing("violations", "code violations", models.Violation),
        Filing("vacancies", "spells of vacancy", models.Vacancy),
        Filing("rentals", "let dwellings", models.Rental),
        Filing("offices", "brokerage offices (RESO names)", models.Office, naming=reso_name),
        Filing("agents", "members of a listing service (RESO names)", models.Agent, naming=reso_name),
        Listings(),
        Filing("listing-events", "changes of listings' prices and status (RESO names)", models.ListingEvent, naming=reso_name),
        Photographs(),
        Contacts(),
    )
}
