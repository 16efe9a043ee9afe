"""The staff pages of teams, users and the worker's jobs."""

from __future__ import annotations

from typing import Any

from django import forms
from django.contrib import admin, messages
from django.db.models import Count, QuerySet
from django.http import HttpRequest
from procrastinate.contrib.django.models import ProcrastinateJob

from jaded_ledger.accounts.audit import AuditKind, note_of
from jaded_ledger.accounts.invitations import invitation
from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.two_factor import take_away


class StaffPages(admin.ModelAdmin):
    """Pages on which staff see and change everything, and delete nothing: who left is made inactive, and what they did stays told."""

    def has_module_permission(self, request: HttpRequest) -> bool:
        return self.has_view_permission(request)

    def has_view_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        return bool(request.user.is_active and request.user.is_staff)

    has_add_permission = has_change_permission = has_view_permission

    def has_delete_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        return False


@admin.register(Team)
class TeamPages(StaffPages):
    fields = ("name", "time_zone")
    list_display = ("name", "time_zone", "people")
    search_fields = ("name",)

    def get_queryset(self, request: HttpRequest) -> QuerySet[Team]:
        return super().get_queryset(request).annotate(people_count=Count("users"))

    @admin.display(description="People", ordering="people_count")
    def people(self, team: Team) -> int:
        return team.people_count  # type: ignore[attr-defined]


class UserForm(forms.ModelForm):
    """A user's data, without a password: an invitation lets its owner choose one."""

    staff: User
    """Who fills in the form."""

    def clean(self) -> dict[str, Any] | None:
        data = super().clean() or {}
        if self.instance == self.staff and not (data.get("is_staff") and data.get("is_active")):
            raise forms.ValidationError("You can’t shut yourself out. Ask another member of staff to do it.")
        return data


@admin.register(User)
class UserPages(StaffPages):
    form = UserForm
    fields = ("username", "first_name", "last_name", "email", "team", "role", "is_staff", "is_active")
    list_display = ("username", "full_name", "team", "role", "is_staff", "is_active", "last_login")
    list_filter = ("team", "role", "is_staff", "is_active")
    list_select_related = ("team",)
    search_fields = ("username", "first_name", "last_name", "email")
    ordering = ("username",)
    actions = ("invite", "take_second_factor_away")

    @admin.display(description="Name")
    def full_name(self, user: User) -> str:
        return user.get_full_name()

    def get_form(self, request: HttpRequest, obj: User | None = None, change: bool = False, **kwargs: Any) -> Any:
        form = super().get_form(request, obj, change, **kwargs)
        form.base_fields["is_staff"].label = "Staff"
        form.base_fields["is_staff"].help_text = "Staff take in records and see these pages."
        form.base_fields["is_active"].help_text = "Whoever left is made inactive: they can’t sign in, and what they did stays told."
        form.staff = request.user  # type: ignore[attr-defined]
        return form

    def save_model(self, request: HttpRequest, obj: User, form: Any, change: bool) -> None:
        if not change:
            obj.set_unusable_password()
        super().save_model(request, obj, form, change)
        if changes := ", ".join(f"{name.replace('_', ' ')} {form.cleaned_data[name]}" for name in form.changed_data):
            note_of(obj, f"{'changed' if change else 'made'} by {request.user.username}: {changes}", request, AuditKind.SETTING)
        if not change:
            self._say_invitation(request, obj)

    @admin.action(description="Invite: a link by which they choose a password")
    def invite(self, request: HttpRequest, queryset: QuerySet[User]) -> None:
        for user in queryset:
            if user.is_active:
                self._say_invitation(request, user)
            else:
                self.message_user(request, f"The user {user.username} is not active and was not invited.", messages.WARNING)

    @admin.action(description="Take the second factor away, of somebody who has lost it")
    def take_second_factor_away(self, request: HttpRequest, queryset: QuerySet[User]) -> None:
        for user in queryset:
            take_away(user)
            note_of(user, f"second factor taken away by {request.user.username}", request)
            self.message_user(request, f"{user.username} signs in with the password alone until a second factor is set up again.")

    def _say_invitation(self, request: HttpRequest, user: User) -> None:
        link = request.build_absolute_uri(invitation(user))
        self.message_user(request, f"Send {user.username} this link, good once and for three days: {link}")


@admin.register(ProcrastinateJob)
class JobPages(StaffPages):
    """What the worker has to do, does, and could not do. What it did is no longer there."""

    fields = readonly_fields = ("task_name", "args", "status", "attempts", "scheduled_at", "events")
    list_display = ("id", "task_name", "args", "status", "attempts", "scheduled_at", "last_event")
    list_filter = ("status", "task_name")
    ordering = ("-id",)

    def has_add_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        return False

    has_change_permission = has_add_permission

    @admin.display(description="Last event")
    def last_event(self, job: ProcrastinateJob) -> str:
        return self._events(job)[-1:][0] if self._events(job) else ""

    @admin.display(description="What happened")
    def events(self, job: ProcrastinateJob) -> str:
        return "; ".join(self._events(job))

    def _events(self, job: ProcrastinateJob) -> list[str]:
        return [f"{event.type.replace('_', ' ')} {event.at:%d %b %Y %H:%M:%S}" for event in job.procrastinateevent_set.order_by("at")]
