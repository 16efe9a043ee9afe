"""Every rule that the models declare, broken on purpose: the database itself must refuse."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from django.apps import apps
from django.contrib.gis.geos import Polygon
from django.db import IntegrityError, connection, models, transaction
from django.db.models import F, Q

from jaded_ledger.accounts.models import AreaGrade
from jaded_ledger.maps.models import DrawnArea
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Area, County, Filed, MapFile, Owner, OwnerDecision, Parcel, RoundFault
from tests.support.demo import DemoTestCase

PLAIN = {
    "owner_decision_of_two": {"other": F("owner")},
    "county_fips_form": {"fips": "5599"},
    "county_ratio_in_range": {"assessment_ratio": 0},
    "county_gap_in_range": {"relisting_gap_days": 731},
    "parcel_has_number": {"number_key": ""},
    "parcel_not_its_own_parent": {"parent_id": F("id")},
    "area_in_county_unless_state": {"county_id": None, "kind": "city"},
    "fill_rate_share": {"known": F("parcels") + 1},
    "county_column_kind_known": {"kind": "percent"},
    "area_grade_a_to_d": {"grade": "E"},
    "project_amenities_known": {"amenities": ["moat"]},
    "project_has_name": {"name": ""},
    "project_year_plausible": {"year_built": 1066},
    "building_year_plausible": {"year_built": 1066},
    "building_area_positive": {"living_area": 0},
    "building_stories_positive": {"stories": 0},
    "unit_has_designator": {"designator": ""},
    "unit_area_positive": {"living_area": 0},
    "roll_entry_lot_positive": {"lot_sqft": 0},
    "roll_entry_area_positive": {"living_area": 0},
    "roll_entry_front_positive": {"frontage": 0},
    "roll_entry_year_plausible": {"year_built": 1066},
    "area_entry_names_area": {"area_id": None},
    "map_feature_has_number": {"number": ""},
    "map_file_has_name": {"name": ""},
    "drawn_area_has_name": {"name": ""},
    "drawn_area_circle_whole": {"radius": 5, "center": None},
    "loan_rate_plausible": {"rate": 41},
    "loan_term_plausible": {"term_months": 601},
    "loan_event_names_loan": {"loan_number": ""},
    "lien_release_names_lien": {"lien_number": ""},
    "tax_year_plausible": {"year": 1799},
    "tax_rate_has_authority": {"authority": ""},
    "exemption_has_kind": {"kind": ""},
    "case_party_has_case": {"case_number": ""},
    "case_document_has_case": {"case_number": ""},
    "case_document_has_title": {"title": ""},
    "case_paper_has_case": {"case_number": ""},
    "case_paper_has_title": {"title": ""},
    "auction_status_known": {"status": "nonsense", "sold_for": None},
    "auction_price_of_sale": {"sold_for": 100, "status": "canceled"},
    "rental_beds_plausible": {"beds": 51},
    "office_has_name": {"office_name": ""},
    "agent_has_name": {"member_full_name": ""},
    "listing_has_id": {"listing_id": ""},
    "listing_area_positive": {"living_area": 0},
    "listing_closed_has_date": {"standard_status": "Closed", "close_date": None},
    "listing_event_field": {"field_name": "Color"},
    "listing_event_value": {"field_name": "ListPrice", "new_value": "cheap"},
    "listing_event_price_before": {"field_name": "ListPrice", "new_value": "1", "previous_value": "dear"},
    "photograph_of_something": {"listing_id": "", "parcel_id": None},
    "contact_has_source": {"source": ""},
    "contact_value_form": {"value": "call me"},
}
"""What breaks each rule that is said for one model alone; those that many share are broken by their form below."""


def rules() -> Iterator[tuple[type[models.Model], models.BaseConstraint]]:
    for model in (*apps.get_app_config("records").get_models(), AreaGrade, DrawnArea):
        for constraint in model._meta.constraints:
            yield model, constraint


def _lookups(condition: Q) -> Iterator[tuple[str, object]]:
    for child in condition.children:
        if isinstance(child, Q):
            yield from _lookups(child)
        else:
            yield child


def _shared(model: type[models.Model], rule: models.CheckConstraint) -> list[dict[str, object]] | None:
    """Return what breaks a rule that many models have, by its form: one breach for each field it speaks of."""
    name, lookups = rule.name, list(_lookups(rule.condition))
    if name.endswith("_superseded_later"):
        return [{"superseded_at": "2001-01-01T00:00Z", "valid_until": F("valid_from")}]
    if name.endswith("_valid_in_order"):
        return [{"valid_until": "2999-01-01"}, {"superseded_at": "2999-01-01T00:00Z"},
                {"superseded_at": "2999-01-01T00:00Z", "valid_until": "1900-01-01"}]  # fmt: skip
    if name.endswith("_has_key"):
        return [{"natural_key": ""}]
    if name.endswith("_not_negative"):
        return [{lookup.removesuffix("__gte"): -1} for lookup, _ in lookups if lookup.endswith("__gte")]
    if name.endswith("_in_order"):
        later, earlier = next((lookup.removesuffix("__gte"), value.name) for lookup, value in lookups if isinstance(value, F))
        return [{later: "1900-01-01", earlier: "2000-01-01"}]
    if name.endswith("_known") and len(lookups) == 1 and lookups[0][0].endswith("__in"):
        return [{lookups[0][0].removesuffix("__in"): "nonsense"}]
    return None


class Constraints(DemoTestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        # Nobody has decided anything in the demo yet, and nobody has brought a picture of its ground.
        box = Polygon.from_bbox((0, 0, 1, 1))
        box.srid = 4326
        MapFile.objects.create(kind="picture", name="Flight", file="x.tif", bounds=box, added_at=now())
        one, other = Owner.objects.order_by("pk")[:2]
        OwnerDecision.objects.create(kind="merge", owner=one, other=other, made_at=now())
        RoundFault.objects.create(round="matches", item="searches.savedsearch 1", about="x", error="x", first_at=now(), last_at=now())

    def refuses(self, constraint: str, act: Callable[[], object]) -> None:
        with self.assertRaisesRegex(IntegrityError, f'"{constraint}"'), transaction.atomic():
            act()
            connection.check_constraints()

    def another(self, row: models.Model, **changes: object) -> None:
        row.pk = None
        for name, value in changes.items():
            setattr(row, name, value)
        row.save(force_insert=True)

    def test_each_check(self) -> None:
        broken = 0
        for model, rule in rules():
            if not isinstance(rule, models.CheckConstraint):
                continue
            breaches = [PLAIN[rule.name]] if rule.name in PLAIN else _shared(model, rule)
            self.assertIsNotNone(breaches, f"no breach is written for {rule.name}")
            row = model._default_manager.order_by("pk").filter(**({"superseded_at": None} if issubclass(model, Filed) else {})).first()
            self.assertIsNotNone(row, f"the demo has no {model.__name__}")
            for breach in breaches:
                with self.subTest(rule.name, **{name: str(value) for name, value in breach.items()}):
                    self.refuses(rule.name, lambda model=model, row=row, breach=breach: model.objects.filter(pk=row.pk).update(**breach))
                    broken += 1
        self.assertGreater(broken, 180)

    def test_each_row_once(self) -> None:
        for model, rule in rules():
            if isinstance(rule, models.UniqueConstraint):
                row = model._default_manager.first()
                with self.subTest(rule.name):
                    match rule.name:
                        case "county_name_once":
                            row, changes = County.objects.first(), {"name": County.objects.first().name.upper(), "fips": "55001"}
                        case "area_once":
                            row, changes = Area.objects.filter(county=None).first(), {}
                        case "area_once_in_county":
                            row, changes = Area.objects.filter(county__isnull=False).first(), {}
                        case "county_column_once":
                            changes = {"key": "another"}
                        case "county_column_key_once":
                            changes = {"name": "another"}
                        case _:
                            if issubclass(model, Filed):
                                row = model.objects.filter(superseded_at=None).first()
                            changes = {}
                    self.refuses(rule.name, lambda row=row, changes=changes: self.another(row, **changes))

    def test_references(self) -> None:
        """A row that points nowhere, and a parcel, a county or a file that others point at."""
        parcel = Parcel.objects.first()
        for model in apps.get_app_config("records").get_models():
            if issubclass(model, Filed):
                one = model.objects.filter(pk=model.objects.values("pk")[:1])
                with self.subTest(model.__name__):
                    self.refuses("[a-z0-9_]+_fk_[a-z0-9_]+", lambda one=one: one.update(source_file_id=0))
        for table, pk in (("records_parcel", parcel.pk), ("records_county", parcel.county_id)):
            with self.assertRaises(IntegrityError), transaction.atomic(), connection.cursor() as cursor:
                cursor.execute(f"DELETE FROM {table} WHERE id = %s", [pk])
                connection.check_constraints()
