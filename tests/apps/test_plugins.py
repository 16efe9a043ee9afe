"""Every entry that an app gives to a place of the program: it is there, it works, and what no app owns is offered to none."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta
from itertools import chain

from django.contrib.staticfiles import finders
from django.template.loader import get_template
from django.test import Client
from django.urls import reverse

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.faces import faces, layout_of, parts_of
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep, selection_acts
from jaded_ledger.lists import services
from jaded_ledger.lists.models import Activity
from jaded_ledger.plugins import hooks, hookspecs, in_order, manager
from jaded_ledger.plugins.entries import Due
from jaded_ledger.properties.view_log import log_view
from jaded_ledger.records.models import Parcel, ParcelFacts
from tests.support.demo import DemoTestCase


class Entries(DemoTestCase):
    def setUp(self) -> None:
        self.client = Client()
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.scope = self.scope.__class__(self.scope.team, self.user, self.scope.today)
        untouched = Parcel.objects.filter(memberships=None, taggings=None, stages=None, facts__do_not_contact=False)
        self.parcel = untouched.select_related("county").order_by("pk").first()

    def test_every_place_is_told_and_filled(self) -> None:
        specs = [name for name, made in vars(hookspecs).items() if getattr(made, "jaded_ledger_spec", None) is not None]
        self.assertGreaterEqual(len(specs), 7)
        for name in specs:
            with self.subTest(name):
                self.assertTrue(getattr(hookspecs, name).__doc__)
                self.assertTrue(getattr(hooks, name).get_hookimpls(), "some app fills it")
        self.assertTrue(all(name for name, _ in manager.list_name_plugin()))

    def test_places_of_the_navigation_open_and_say_where_they_are(self) -> None:
        places = in_order(hooks.navigation())
        self.assertEqual(len({place.key for place in places}), len(places))
        for place in places:
            with self.subTest(place.key):
                self.assertTrue(finders.find(f"vendor/icons/{place.icon}.svg"))
                page = self.client.get(reverse(place.url_name))
                self.assertContains(page, f'href="{reverse(place.url_name)}"')
                self.assertRegex(page.content.decode(), rf'class="place here"\s+href="{reverse(place.url_name)}"')

    def test_acts_on_a_selection_stand_at_the_foot_and_lead_to_a_page(self) -> None:
        selection = keep(self.scope, SearchPage(parse("class: triplex")), [], is_all=True)
        foot = self.client.get("/?q=class: triplex").content.decode()
        acts = selection_acts()
        self.assertEqual([act.order for act in acts], sorted(act.order for act in acts))
        for act in acts:
            with self.subTest(act.key):
                self.assertIn(f'name="then" value="{act.key}"', foot)
                self.assertEqual(self.client.get(reverse(act.url_name, args=[selection.key]), follow=True).status_code, 200)
                sent = self.client.post(reverse("find:keep-selection"), {"q": "class: triplex", "all": "1", "then": act.key})
                self.assertTrue(sent["Location"].startswith(reverse(act.url_name, args=["x"])[:-2].rstrip("x/")))
        wrong = self.client.post(reverse("find:keep-selection"), {"q": "class: triplex", "all": "1", "then": "dance"})
        self.assertEqual(wrong.status_code, 404)

    def test_sections_stand_on_a_property_s_page(self) -> None:
        page, more = (
            self.client.get(reverse(f"properties:{name}", args=[self.parcel.pk])).content.decode() for name in ("property", "more")
        )
        for section in chain.from_iterable(hooks.property_sections()):
            with self.subTest(section.key):
                self.assertTrue(get_template(section.template))
                self.assertIn(f'<section id="{section.key}">', page)
                self.assertIn(f'<section id="{section.key}">', more)
                self.assertIn(f'href="#{section.key}"', page)

    def test_what_was_done_with_a_property_is_told_once_and_to_its_team_alone(self) -> None:
        page = reverse("properties:more", args=[self.parcel.pk])
        self.assertContains(self.client.get(page), "Nothing yet")
        made = services.make_list(self.scope, "Doors <b>")
        services.add(self.scope, made, [self.parcel.pk])
        services.tag(self.scope, "corner", [self.parcel.pk])
        services.set_stage(self.scope, "comping", [self.parcel.pk])
        log_view(self.scope, self.parcel, 1)
        selection = keep(self.scope, SearchPage(parse("")), [self.parcel.pk], is_all=False)
        written = self.client.post(reverse("contacts:contacts", args=[selection.key]), {"columns": ["parcel-number"]})
        told = [happening.what for happening in chain.from_iterable(hooks.happened(parcel=self.parcel, scope=self.scope))]
        expected = ["added to a list: Doors <b>", "tagged: corner", "set a stage: comping", "telephone and e-mail looked at"]
        self.assertTrue(written.streaming)
        self.assertEqual(sorted(told), sorted([*expected, "written to a contact file, one of 1"]))
        answer = self.client.get(page)
        self.assertContains(answer, "added to a list: Doors &lt;b&gt;", count=1)
        services.undo(self.scope, Activity.objects.get(verb="tag", about="corner"))
        self.assertNotContains(self.client.get(page), "tagged: corner")
        self.client.force_login(self.other_team(), backend="django.contrib.auth.backends.ModelBackend")
        self.assertContains(self.client.get(page), "Nothing yet")

    def test_what_is_due_is_from_today_to_the_day_itself_and_the_team_s_own(self) -> None:
        facts = ParcelFacts.objects.filter(auction__gt=self.scope.today, parcel__memberships=None).order_by("auction").first()
        made = services.make_list(self.scope, "On the steps")
        services.add(self.scope, made, [facts.parcel_id])

        def due(scope: Scope, until: date) -> list[Due]:
            return [entry for entry in chain.from_iterable(hooks.due(scope=scope, until=until)) if entry.parcel_id == facts.parcel_id]

        day = timedelta(days=1)
        (entry,) = due(self.scope, facts.auction)
        self.assertEqual((entry.on, entry.what), (facts.auction, f"auction of {facts.street_line}, on “On the steps”"))
        self.assertEqual(due(self.scope, facts.auction - day), [])
        self.assertEqual(due(replace(self.scope, today=facts.auction), facts.auction), [entry])
        self.assertEqual(due(replace(self.scope, today=facts.auction + day), facts.auction + day), [])
        self.assertEqual(due(replace(self.scope, team=self.other_team().team), facts.auction), [])

    def test_the_face_that_is_shown(self) -> None:
        """The one named, else the one that was kept, else the first; what no face and no width can be is left as it was."""
        keys = [face.key for face in faces()]
        self.assertEqual(keys[0], "table")
        for face in faces():
            with self.subTest(face.key):
                page = self.client.get(reverse("find:face"), {"face": face.key})
                for part in parts_of(face):
                    self.assertTrue(get_template(part.template))
                    self.assertContains(page, f'id="face-{part.key}"')
        for sent, width in (
            ({"ledger_width": "319"}, 320), ({"ledger_width": "320"}, 320), ({"ledger_width": "721"}, 720), ({"ledger_width": "500"}, 500),
            ({"ledger_width": "wide"}, 500), ({"face": "none such"}, 500), ({}, 500), ({"face": "table"}, 500),
        ):  # fmt: skip
            self.assertEqual(self.client.post(reverse("find:layout"), sent).status_code, 204)
            layout = layout_of(self.user)
            self.assertEqual((layout.ledger_width, layout.face), (width, "table" if sent == {"face": "table"} else ""), sent)
        self.assertEqual(layout_of(self.other_team()).ledger_width, 392)
