"""Owners on record: matched by close spellings at one address, merged and split by hand, all of it undone again."""

from __future__ import annotations

from django.urls import reverse

from jaded_ledger.accounts.models import User
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.balance import count_owners
from jaded_ledger.find.compiler import compile
from jaded_ledger.records.derivation import derive
from jaded_ledger.records.models import Contact, Owner, OwnerDecision, OwnerSpelling, ParcelFacts, RollEntry
from jaded_ledger.records.owners import OwnersError, merge, perhaps_the_same, split, undo
from tests.support.demo import DemoTestCase


class Owners(DemoTestCase):
    def of(self, words: str) -> Owner:
        """Return the owner with most parcels whose name has these words."""
        found = Owner.objects.filter(facts__owner_name__words__contains=f" {words} ")
        return max(set(found), key=lambda owner: owner.facts.count())

    def parcels(self, owner: Owner) -> int:
        return ParcelFacts.objects.filter(owner=owner).count()

    def test_two_spellings_at_one_address_are_one_owner(self) -> None:
        close = OwnerSpelling.objects.filter(because="close").select_related("owner")
        self.assertGreater(close.count(), 10)
        for spelling in close:
            others = spelling.owner.spellings.exclude(pk=spelling.pk)
            self.assertIn(spelling.at, {other.at for other in others})
        company = next(one.owner for one in close if one.owner.facts.count() > 5)
        names = set(company.facts.values_list("owner_name__text", flat=True))
        self.assertGreater(len(names), 1)
        self.assertEqual(set(company.facts.values_list("parcels_owned", flat=True)), {self.parcels(company)})

    def test_without_a_mailing_address_each_parcel_has_its_own(self) -> None:
        nowhere = OwnerSpelling.objects.filter(at__startswith="parcel ")
        self.assertTrue(nowhere)
        self.assertEqual({self.parcels(one.owner) for one in nowhere.select_related("owner")}, {1})

    def test_merge_and_undo(self) -> None:
        keep, other = self.of("two lamps holdings"), self.of("harrow point rentals")
        mine, theirs = self.parcels(keep), self.parcels(other)
        before = sorted(ParcelFacts.objects.values_list("parcel_id", "owner_id", "parcels_owned", "has_telephone"))
        owners = count_owners(compile(parse(""), self.scope))
        decision = merge(keep, other, self.user.team, self.user)
        self.assertEqual((self.parcels(keep), self.parcels(other)), (mine + theirs, 0))
        self.assertEqual(set(keep.facts.values_list("parcels_owned", flat=True)), {mine + theirs})
        self.assertEqual(count_owners(compile(parse(""), self.scope)), owners - 1)
        self.assertFalse(Contact.objects.filter(owner=other, superseded_at=None).exists())
        # What is derived from nothing is the same.
        theirs_now = ParcelFacts.objects.filter(owner=keep).order_by("parcel_id")
        facts, ids = list(theirs_now.values_list()), list(theirs_now.values_list("parcel_id", flat=True))
        theirs_now.delete()
        derive(ids)
        self.assertEqual(list(theirs_now.values_list()), facts)
        with self.assertRaisesRegex(OwnersError, "merged into another"):
            merge(keep, other)
        undo(decision)
        after = sorted(ParcelFacts.objects.values_list("parcel_id", "owner_id", "parcels_owned", "has_telephone"))
        self.assertEqual([row[:3] for row in after], [row[:3] for row in before])
        with self.assertRaisesRegex(OwnersError, "undone already"):
            undo(decision)

    def test_split(self) -> None:
        owner = max((owner_spelling.owner for owner_spelling in OwnerSpelling.objects.filter(because="close")), key=self.parcels)
        whole, off = self.parcels(owner), owner.spellings.filter(because="close").first()
        with self.assertRaisesRegex(OwnersError, "at least one"):
            split(owner, owner.spellings.values_list("pk", flat=True))
        with self.assertRaisesRegex(OwnersError, "Choose the spellings"):
            split(owner, [])
        decision = split(owner, [off.pk], self.user.team, self.user)
        other = decision.other
        self.assertEqual(self.parcels(owner) + self.parcels(other), whole)
        self.assertTrue(self.parcels(other))
        self.assertFalse(RollEntry.objects.filter(owner=owner, owner_name__in=other.facts.values("owner_name")).exists())
        self.assertIn(other, perhaps_the_same(owner))
        undo(decision)
        self.assertEqual(self.parcels(owner), whole)

    def test_on_the_page(self) -> None:
        self.client.force_login(self.user)
        keep, other = self.of("two lamps holdings"), self.of("harrow point rentals")
        parcel = keep.facts.first().parcel_id
        address = reverse("properties:owner", args=[parcel])
        answer = self.client.post(address, {"do": "merge", "other": other.pk}, follow=True)
        self.assertContains(answer, "Merged.")
        others = self.client.get(reverse("properties:others", args=[parcel]))
        self.assertContains(others, "Decided by hand")
        self.assertContains(others, "by Nora")
        decision = OwnerDecision.objects.get()
        answer = self.client.post(address, {"do": "undo", "decision": decision.pk}, follow=True)
        self.assertContains(answer, "again whose they were")
        self.assertContains(self.client.post(address, {"do": "split"}, follow=True), "Choose the spellings")
        for wrong in ({"do": "merge", "other": "x"}, {"do": "merge", "other": "99999999"}, {"do": "dance"}):
            self.assertEqual(self.client.post(address, wrong).status_code, 404)
        self.assertContains(self.client.post(address, {"do": "undo", "decision": decision.pk}, follow=True), "undone already")
        self.user.role = User.Role.READER
        self.user.save()
        self.assertEqual(self.client.post(address, {"do": "merge", "other": other.pk}).status_code, 403)
        self.assertNotContains(self.client.get(reverse("properties:others", args=[parcel])), "Merge with")

    def test_only_its_team_and_staff_undo_a_decision_and_only_where_it_belongs(self) -> None:
        keep, other = self.of("two lamps holdings"), self.of("harrow point rentals")
        decision = merge(keep, other, self.user.team, self.user)
        address = reverse("properties:owner", args=[keep.facts.first().parcel_id])
        elsewhere = reverse("properties:owner", args=[ParcelFacts.objects.exclude(owner__in=[keep, other, None]).first().parcel_id])
        stranger, undoing = self.other_team(), {"do": "undo", "decision": decision.pk}
        self.client.force_login(stranger)
        page = self.client.get(reverse("properties:others", args=[keep.facts.first().parcel_id]))
        self.assertContains(page, "by another team")
        self.assertNotContains(page, "by Nora")
        self.assertNotContains(page, 'value="undo"')
        self.assertEqual(self.client.post(address, undoing).status_code, 403)
        self.assertEqual(self.client.post(elsewhere, undoing).status_code, 404)
        decision.refresh_from_db()
        self.assertIsNone(decision.undone_at)
        # Of its team, but not by way of somebody else's parcel.
        colleague = User.objects.create_user("ines", password="x", team=self.user.team)
        self.client.force_login(colleague)
        self.assertEqual(self.client.post(elsewhere, undoing).status_code, 404)
        self.assertContains(self.client.post(address, undoing, follow=True), "again whose they were")
        # Staff, of whatever team.
        again = merge(keep, other, self.user.team, self.user)
        User.objects.filter(pk=stranger.pk).update(is_staff=True)
        self.client.force_login(stranger)
        self.assertContains(self.client.post(address, undoing | {"decision": again.pk}, follow=True), "again whose they were")
