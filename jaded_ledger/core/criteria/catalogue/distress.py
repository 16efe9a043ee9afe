"""Signs that an owner may have to sell."""

from __future__ import annotations

from jaded_ledger.core.criteria.catalogue.choices import (
    AUCTION_KINDS,
    AUCTION_RESULTS,
    CASE_STATUSES,
    SIGNAL_UMBRELLAS,
    SIGNALS,
    STAGE_UMBRELLAS,
    STAGES,
)
from jaded_ledger.core.criteria.traits import Kind, Section, Trait

_BILLS, _COURTS, _LIENS = "the county's tax bills", "the county's court cases", "the county's recorded liens"
_RELEASED = "the newest that is neither released nor older than the last sale (paid from its price: common practice)"


def _lien(key: str, label: str, *synonyms: str) -> Trait:
    return Trait(
        f"{key}-lien", f"{label} lien", Section.DISTRESS, Kind.DATE, f"when the newest open {label} lien was recorded", _LIENS,
        synonyms=synonyms, event=f"has_{key.replace('-', '_')}_lien", rule=_RELEASED, by_name="any",
    )  # fmt: skip


def _case(key: str, what: str, *synonyms: str) -> Trait:
    return Trait(
        key, key, Section.DISTRESS, Kind.DATE, f"when the newest open {what} was filed", _COURTS, synonyms=synonyms, event=f"has_{key}",
        rule="the newest case that was neither dismissed nor disposed of", by_name="any",
    )  # fmt: skip


TRAITS = (
    Trait("tax-years-delinquent", "years delinquent", Section.DISTRESS, Kind.NUMBER, "for how many years tax is due", _BILLS,
          synonyms=("delinquent taxes", "back taxes", "unpaid taxes", "years of tax due", "tax years delinquent"),
          sayings=(("tax delinquent", "any"), ("behind on taxes", "any"), ("delinquent", "any")),
          zero_is_none=True, rule="years with something still due that were over on the day through which bills are on file"),
    Trait("tax-due", "tax due", Section.DISTRESS, Kind.MONEY, "tax due of earlier years, with interest", _BILLS,
          synonyms=("delinquent amount", "taxes owed"), zero_is_none=True,
          rule="what is due of years that were over on the day through which bills are on file", adds_up=True),
    Trait("tax-suit", "tax suit", Section.DISTRESS, Kind.CHOICE, "how far the newest suit for unpaid tax has come", _COURTS,
          choices=CASE_STATUSES, synonyms=("tax foreclosure", "tax case"), rule="the newest case for tax"),
    Trait("tax-judgment", "tax judgment", Section.DISTRESS, Kind.DATE, "when judgment was given for unpaid tax", _COURTS,
          event="has_tax_judgment", rule="the newest case for tax that stands at judgment"),
    Trait("foreclosure-stage", "foreclosure stage", Section.DISTRESS, Kind.CHOICE, "the furthest step of an open foreclosure",
          "the county's foreclosures", choices=STAGES, umbrellas=STAGE_UMBRELLAS, synonyms=("foreclosure", "foreclosure status", "default"),
          rule="the furthest step since the last reinstatement, dismissal or sale"),
    Trait("foreclosure-step", "foreclosure step", Section.DISTRESS, Kind.DATE, "when that step was taken", "the county's foreclosures",
          event="in_foreclosure", rule="the furthest step since the last reinstatement, dismissal or sale"),
    Trait("auction", "auction", Section.DISTRESS, Kind.DATE, "when the property is to be auctioned", "the county's public sales",
          event="has_auction", synonyms=("auction date", "sheriff sale", "trustee sale"), is_ahead=True,
          rule="the next auction that is still to be held"),
    Trait("auction-kind", "auction kind", Section.DISTRESS, Kind.CHOICE, "why the property is to be auctioned",
          "the county's public sales",
          choices=AUCTION_KINDS, rule="the next auction that is still to be held"),
    Trait("auction-result", "auction result", Section.DISTRESS, Kind.CHOICE, "what became of the newest auction",
          "the county's public sales",
          choices=AUCTION_RESULTS, synonyms=("sold at auction", "auction status", "sheriff sale result"),
          rule="as recorded; held, result unknown, where its day has passed, the records reach beyond it and none tells"),
    _lien("mechanics", "mechanic's", "mechanics lien", "construction lien", "contractor lien", "builder's lien"),
    _lien("hoa", "HOA", "association lien"),
    _lien("judgment", "judgment", "creditor lien"),
    _lien("federal-tax", "federal tax", "irs lien"),
    _lien("state-tax", "state tax"),
    _lien("municipal", "municipal", "utility lien"),
    _lien("child-support", "child support"),
    Trait("lien-total", "total liens", Section.DISTRESS, Kind.MONEY, "what all open involuntary liens come to", _LIENS,
          synonyms=("lien amount", "liens in all", "lien total"), zero_is_none=True,
          rule="amounts of all liens that are neither released nor older than the last sale", adds_up=True),
    Trait("code-violation", "code violation", Section.DISTRESS, Kind.DATE, "when the newest open code violation was noted",
          "the town's violations", event="has_violation", by_name="any", synonyms=("building violation", "nuisance", "code enforcement"),
          rule="the newest that is not closed"),
    Trait("vacancy", "vacant since", Section.DISTRESS, Kind.DATE, "since when the building is known to stand empty", "noted vacancies",
          event="is_vacant", by_name="any", synonyms=("unoccupied", "vacancy"),
          sayings=(("vacant", "any"), ("empty house", "any"), ("vacant house", "any")), rule="the newest one that has not ended"),
    _case("probate", "probate case", "probate case", "estate case", "in probate"),
    Trait("inherited", "inherited", Section.DISTRESS, Kind.DATE, "when the owner inherited it", "the county's recorded deeds",
          event="is_inherited", by_name="any", synonyms=("inheritance", "heir", "heirs"),
          rule="the instrument by which the owner acquired it passed an estate"),
    _case("divorce", "divorce case", "divorcing", "in divorce"),
    _case("bankruptcy", "bankruptcy case", "chapter 7", "chapter 13"),
    Trait("evictions", "eviction filings", Section.DISTRESS, Kind.NUMBER, "how many evictions were filed on it", _COURTS,
          synonyms=("eviction", "eviction filing"), zero_is_none=True, rule="eviction cases filed since the present owner acquired it",
          adds_up=True),
    Trait("tired-landlord", "tired landlord", Section.DISTRESS, Kind.FLAG,
          "an owner elsewhere, for long, with a let house and its troubles",
          "roll, deeds, listings, courts and violations", synonyms=("burned-out landlord",),
          rule="absentee, owned 10 years or more, residential, with a rental listing, eviction filing or code violation on record "
          "(common practice)"),
    Trait("open-signals", "distress signs", Section.DISTRESS, Kind.NUMBER, "how many kinds of distress stand open",
          "all records that tell of distress",
          synonyms=("distress count", "motivation", "open signals", "number of distress signs"), zero_is_none=True,
          rule="kinds of signal with at least one that is open"),
    Trait("signals", "kinds of distress sign", Section.DISTRESS, Kind.SET, "which kinds of distress stand open",
          "all records that tell of distress", choices=SIGNALS, umbrellas=SIGNAL_UMBRELLAS,
          synonyms=("distress", "distressed", "kinds of signal"), rule="kinds of signal with at least one that is open"),
    Trait("newest-signal", "newest distress sign", Section.DISTRESS, Kind.DATE, "the day of the newest open signal",
          "all records that tell of distress",
          event="has_signal", rule="the newest of the open signals that is not yet to come"),
)  # fmt: skip
