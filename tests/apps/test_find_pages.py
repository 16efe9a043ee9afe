"""Find's answers to requests that no page of ours would make."""

from __future__ import annotations

from urllib.parse import urlencode

from django.urls import reverse

from jaded_ledger.find.models import Selection
from tests.support.demo import DemoTestCase


class Odd(DemoTestCase):
    def setUp(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def get(self, name: str, **query: str):
        return self.client.get(f"{reverse(f'find:{name}')}?{urlencode(query)}", headers={"HX-Request": "true"})

    def test_never_a_server_error(self) -> None:
        for q in (
            "beds: " + "9" * 500, "last-sale: 9999 years ago",
            "last-sale: in the next 99999 days", "parcel-number: *", "any of:", "~", ":", '"', "beds: 1..\u0662", "county: \U0001f3e0",
            "year-built: ..99999999999", "assessed-value: 3000000000", "house-number: -5..", "baths: 0.001", "lot-acres: ..0",
        ):  # fmt: skip
            with self.subTest(q):
                self.assertEqual(self.client.get("/", {"q": q}).status_code, 200)
                for name in ("change", "suggestions", "text"):
                    self.assertEqual(self.get(name, q=q, typed=q, do=f"add:{q}").status_code, 200, name)
        for typed in ("'", "%", "_", "\\", "12-034-*", "12-034-7..9", "1", "a", "=cmd|x", "🏠"):
            with self.subTest(typed):
                self.assertEqual(self.get("suggestions", typed=typed).status_code, 200)
                self.assertEqual(self.get("names", trait="owner-name", words=typed).status_code, 200)

    def test_lines_and_traits_that_are_not_there(self) -> None:
        self.assertContains(self.get("change", q="beds: 3", do="strike:7"), "no longer there")
        self.assertContains(self.get("edit", q="beds: 3", line="7"), "no longer there")
        for query in ({"trait": "nope"}, {"trait": "county"}, {"q": "any of:\n  beds: 3", "line": "0"}):
            self.assertEqual(self.get("edit", **query).status_code, 404)
        self.assertEqual(self.get("edit-group", q="beds: 3", line="0").status_code, 404)
        self.assertEqual(self.get("change", q="beds: 3", do="fly:0").status_code, 404)
        self.assertEqual(self.client.get("/", {"page": "999999", "sort": "nope", "q": "class: duplex"}).status_code, 200)
        self.assertContains(self.client.get("/", {"columns": "nope"}), "is not a trait")

    def test_counties_are_chosen_by_typing_too(self) -> None:
        answer = self.get("change", q="beds: 3..", typed="county: tamarack")
        self.assertEqual(answer["HX-Push-Url"], "/?q=county%3A%20tamarack%0Abeds%3A%203..")
        self.assertContains(self.get("change", typed="county: nowhere"), "not a county on record")

    def test_an_edited_line_stays_struck_and_goes_on_asking(self) -> None:
        for q, line, pushed in [
            ("~ beds: 3..", {"low": "4"}, "/?q=~%20beds%3A%204.."),
            ("beds: ask", {"low": "4", "high": "4", "ask": "on"}, "/?q=beds%3A%20ask%204"),
            ("beds: ask 3", {"as_text": "1", "raw": "ask 5.."}, "/?q=beds%3A%20ask%205.."),
        ]:
            self.assertEqual(self.get("edit", q=q, line="0", set="1", **line)["HX-Push-Url"], pushed)
        group = self.get("edit-group", q="~ any of:\n  beds: 3", line="0", set="1", members="baths: 2")
        self.assertEqual(group["HX-Push-Url"], "/?q=~%20any%20of%3A%0A%20%20baths%3A%202")

    def test_without_scripts_an_act_leads_to_an_address(self) -> None:
        answer = self.client.get(reverse("find:change"), {"q": "beds: 3..", "do": "strike:0"})
        self.assertRedirects(answer, "/?q=~%20beds%3A%203..")

    def test_selections(self) -> None:
        keep = reverse("find:keep-selection")
        self.assertRedirects(self.client.post(keep, {"q": "beds: x", "then": "mail", "all": "1"}), "/?q=beds%3A+x")
        self.assertRedirects(self.client.post(keep, {"q": "beds: 3", "then": "mail", "ids": "x,,"}), "/?q=beds%3A%203")
        self.assertEqual(self.client.post(keep, {"q": "beds: 3", "then": "nowhere", "all": "1"}).status_code, 404)
        self.assertFalse(Selection.objects.exists())
        chosen = reverse("find:chosen")
        self.assertEqual(self.client.post(chosen, {"q": "beds: x"}).status_code, 400)
        self.assertEqual(self.client.post(chosen, {"q": "", "ids": "1,2,99999999999"}).status_code, 200)
        all_owners = self.client.post(chosen, {"q": "class: triplex", "all": "1"}).json()["owners"]
        self.assertGreater(all_owners, 100)
