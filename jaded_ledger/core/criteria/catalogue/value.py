"""What a property is worth and what is owed on it."""

from __future__ import annotations

from jaded_ledger.core.criteria.catalogue.choices import LOAN_KINDS
from jaded_ledger.core.criteria.traits import Kind, Section, Trait

_ROLL = "the county's assessment roll"
_LOANS = "the county's recorded mortgages"
_BILLS = "the county's tax bills"

TRAITS = (
    Trait("estimated-value", "estimated value", Section.VALUE, Kind.MONEY, "what the property is worth",
          "roll, deeds and the area's sales",
          synonyms=("value", "market estimate", "worth"),
          rule="the median of those available of assessed value ÷ the county's ratio, the last sale's price brought to today by the area's "
          "prices, and the area's median price a sq ft × living area; of two, their mean", adds_up=True),
    Trait("value-low", "value, low", Section.VALUE, Kind.MONEY, "the least of the ways in which the value is told",
          "roll, deeds and the area's sales", rule="the least of the estimate's parts", adds_up=True),
    Trait("value-high", "value, high", Section.VALUE, Kind.MONEY, "the most of the ways in which the value is told",
          "roll, deeds and the area's sales", rule="the most of the estimate's parts", adds_up=True),
    Trait(
        "assessed-value", "assessed value", Section.VALUE, Kind.MONEY, "land and improvements as assessed", _ROLL,
        synonyms=("assessment", "assessed", "roll value", "tax assessed value", "assessor's value"),
        rule="land and improvement value together", adds_up=True,
    ),
    Trait("market-value", "roll market value", Section.VALUE, Kind.MONEY, "the market value as the roll estimates it", _ROLL,
          synonyms=("assessor's market value", "fair market value", "appraised", "appraised value", "market value"), adds_up=True),
    Trait("market-value-1y", "roll value, 1-year change", Section.VALUE, Kind.PERCENT, "change of the roll's market value over a year",
          _BILLS, decimals=2, synonyms=("appreciation",), rule="the newest tax year's market value against that of the year before"),
    Trait("market-value-5y", "roll value, 5-year change", Section.VALUE, Kind.PERCENT, "change of the roll's market value over five years",
          _BILLS, decimals=2, rule="the newest tax year's market value against that of five years before"),
    Trait("land-value", "land value", Section.VALUE, Kind.MONEY, "what the land is assessed at", _ROLL, adds_up=True),
    Trait(
        "improvement-value", "improvement value", Section.VALUE, Kind.MONEY,
        "what the buildings are assessed at; 0 is how raw land is recognized", _ROLL,
        synonyms=("building value", "improvements"), adds_up=True,
    ),
    Trait("value-sqft", "value a sq ft", Section.VALUE, Kind.MONEY, "estimated value for each square foot of living area",
          "roll, deeds and the area's sales", decimals=2, synonyms=("price per square foot", "$/sq ft", "$ per sq ft", "price a sq ft",
                                                            "value per square foot"), rule="estimated value ÷ living area"),
    Trait("loan-balance", "loan balance", Section.VALUE, Kind.MONEY, "what is owed on open loans", _LOANS,
          synonyms=("mortgage balance", "debt", "open debt", "owes", "amount owed", "mortgage"),
          zero_is_none=True,
          rule="level payments since each open loan began; a loan without a recorded rate at the year's average, a credit line at its full "
          "limit, one on several parcels shared by assessed value; not known where the seller financed the last sale and no "
          "loan tells of it, or where a lender was served in a tax suit or is foreclosing and no loan is open on record", adds_up=True),
    Trait("open-loans", "open loans", Section.VALUE, Kind.NUMBER, "how many loans are open", _LOANS,
          synonyms=("number of loans", "mortgages", "number of mortgages"),
          zero_is_none=True,
          rule="recorded, and not released, matured, paid off at a sale, wiped out or replaced by a refinance of at least 80 % of what was "
          "owed", adds_up=True),
    Trait("blanket-loan", "blanket loan", Section.VALUE, Kind.FLAG, "whether an open loan covers other parcels, too", _LOANS,
          synonyms=("blanket mortgage", "cross-collateral", "cross-collateralized"),
          rule="an open loan whose document covers more than one parcel"),
    Trait("last-loan", "last loan", Section.VALUE, Kind.DATE, "when the last loan was recorded", _LOANS, event="has_loan",
          synonyms=("loan date", "mortgage date", "last refinance"), rule="the newest loan on record, open or not"),
    Trait("last-loan-kind", "kind of last loan", Section.VALUE, Kind.CHOICE, "what the last loan was for", _LOANS, choices=LOAN_KINDS,
          event="has_loan", rule="the newest loan on record, open or not"),
    Trait("lender", "lender", Section.VALUE, Kind.NAME, "who gave the last loan, as recorded", _LOANS, event="has_loan",
          synonyms=("mortgage company", "mortgage lender", "bank"), rule="the newest loan on record, open or not"),
    Trait("ltv", "LTV", Section.VALUE, Kind.PERCENT, "open loans in percent of the estimated value", "value and loans", decimals=2,
          synonyms=("loan to value", "loan to value ratio", "leverage"), rule="loan balance ÷ estimated value"),
    Trait("equity", "equity", Section.VALUE, Kind.MONEY, "what of the value is the owner's own", "value, loans, liens and taxes",
          in_percent="equity-pct", synonyms=("owner's equity",),
          rule="estimated value − open loan balances − involuntary liens − delinquent taxes", adds_up=True),
    Trait("equity-pct", "equity %", Section.VALUE, Kind.PERCENT, "equity in percent of the estimated value",
          "value, loans, liens and taxes", decimals=2,
          synonyms=("equity percent", "equity percentage", "equity", "high equity", "low equity"), rule="equity ÷ estimated value"),
    Trait("free-and-clear", "free and clear", Section.VALUE, Kind.FLAG, "whether no loan is open", _LOANS,
          synonyms=("no mortgage", "no loan",
          "no debt", "paid off", "mortgage free"),
          rule="no open loan; not known where the seller financed the last sale and no loan tells of it, or where a lender was served in a "
          "tax suit or is foreclosing and no loan is open on record"),
    Trait("tax-bill", "tax bill", Section.VALUE, Kind.MONEY, "the last year's tax as billed", _BILLS, unit="a year",
          synonyms=("property tax", "property taxes", "taxes", "annual tax", "tax annual amount"),
          rule="the newest tax year on record", adds_up=True),
    Trait("rent-in-place", "rent in place", Section.VALUE, Kind.MONEY, "what its dwellings are let for today", "rental register, listings",
          unit="a month", event="is_let", synonyms=("current rent", "actual rent", "total actual rent", "rent roll"),
          rule="rents on the rental register where all of its dwellings are let, else the rent in place by its listing (RESO "
          "TotalActualRent)", adds_up=True),
    Trait("rent-advertised", "rent advertised", Section.VALUE, Kind.MONEY, "the rent that its latest rental listing asks",
          "rental listings",
          unit="a month", event="is_advertised_to_let", synonyms=("asking rent", "rent asked"),
          rule="of the latest rental listing, unless it was withdrawn, canceled or has expired", adds_up=True),
    Trait("rent-potential", "potential rent", Section.VALUE, Kind.MONEY, "the rent that its listing says all of it would bring", "listings",
          unit="a month", event="ever_listed", synonyms=("pro forma rent", "scheduled rent", "gross scheduled income"),
          rule="gross scheduled income of the latest listing for sale (RESO GrossScheduledIncome) ÷ 12", adds_up=True),
    Trait("rent-area", "area rent", Section.VALUE, Kind.MONEY, "the usual rent of a dwelling like its own in the area",
          "rentals of the area", unit="a month", synonyms=("market rent", "median rent"),
          rule="median rent of let dwellings of the same class and bedrooms in the area; not known with fewer than 5", adds_up=True),
)  # fmt: skip
