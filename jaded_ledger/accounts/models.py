"""Users, the teams they work in, and how a team grades neighborhoods."""

from __future__ import annotations

from zoneinfo import available_timezones

from django.contrib.auth.models import AbstractUser
from django.core.exceptions import ValidationError
from django.core.validators import MaxValueValidator
from django.db import models

from jaded_ledger.core.watching.rhythms import Times


def check_time_zone(name: str) -> None:
    """Refuse a time zone that is not in the IANA database."""
    if name not in available_timezones():
        raise ValidationError(f"{name} is not a time zone; write one such as America/Chicago.")


class Team(models.Model):
    """Who owns lists, searches, deals and contacts. Records belong to the installation."""

    name = models.CharField(max_length=80, unique=True)
    time_zone = models.CharField(max_length=60, default="America/Chicago", validators=[check_time_zone])
    morning_hour = models.PositiveSmallIntegerField(
        default=6, validators=[MaxValueValidator(23)], help_text="At which hour, 0 to 23, its morning begins: what is new is told then."
    )
    phone = models.CharField(max_length=40, blank=True, help_text="The number that letters and mails give, as it is printed.")
    license = models.CharField(max_length=120, blank=True, help_text="The license line of letters.")
    version = models.PositiveBigIntegerField(default=0, help_text="Goes up whenever something changes that only the team's searches read.")

    @property
    def times(self) -> Times:
        """When its mornings begin."""
        return Times(self.morning_hour, self.time_zone)

    def put_up_version(self) -> None:
        """Say that what the team knows beside the records has changed."""
        Team.objects.filter(pk=self.pk).update(version=models.F("version") + 1)
        self.refresh_from_db(fields=["version"])

    def __str__(self) -> str:
        return self.name


class User(AbstractUser):
    """Somebody who signs in, in one team. Staff take in records; a reader takes no contact data out."""

    class Role(models.TextChoices):
        OWNER = "owner", "Owner"
        AGENT = "agent", "Agent"
        READER = "reader", "Reader"

    team = models.ForeignKey(Team, null=True, on_delete=models.PROTECT, related_name="users")
    role = models.CharField(max_length=10, choices=Role.choices, default=Role.AGENT)
    phone = models.CharField(max_length=40, blank=True, help_text="Their own number, as mails to their clients give it.")
    single_key_shortcuts = models.BooleanField(
        default=True, help_text="Whether a single letter is a shortcut (WCAG 2.1.4 asks that it can be switched off)."
    )

    @property
    def display_name(self) -> str:
        """What somebody is called on pages."""
        return self.first_name or self.username

    @property
    def phone_to_give(self) -> str:
        """The number by which clients reach them: their own, else the team's; blank without one."""
        return self.phone or (self.team.phone if self.team else "")

    class Meta(AbstractUser.Meta):
        constraints = [models.CheckConstraint(condition=models.Q(role__in=["owner", "agent", "reader"]), name="user_role_known")]


class AuditEntry(models.Model):
    """Something that somebody did and that no other log tells: signing in, changing what holds for the whole team."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="audit_entries")
    user = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+", help_text="Blank for the command line.")
    at = models.DateTimeField()
    kind = models.CharField(max_length=20)
    what = models.CharField(max_length=200)
    address = models.GenericIPAddressField(null=True)

    class Meta:
        ordering = ["-at", "-id"]
        indexes = [models.Index(fields=["team", "-at"], name="audit_newest")]
        verbose_name_plural = "audit entries"


class AreaGrade(models.Model):
    """A team's own judgment of a neighborhood, A the best."""

    class Grade(models.TextChoices):
        A = "A"
        B = "B"
        C = "C"
        D = "D"

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="area_grades")
    area = models.ForeignKey("records.Area", on_delete=models.CASCADE, related_name="grades")
    grade = models.CharField(max_length=1, choices=Grade.choices)

    class Meta:
        constraints = [
            models.UniqueConstraint("team", "area", name="area_grade_once"),
            models.CheckConstraint(condition=models.Q(grade__in=["A", "B", "C", "D"]), name="area_grade_a_to_d"),
        ]
