"""The staff pages: Django's admin, entered by our own sign-in and open to staff alone."""

from __future__ import annotations

from typing import Any

from django.contrib.admin import AdminSite
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import redirect_to_login
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse
from django.utils.decorators import method_decorator


class StaffSite(AdminSite):
    site_header = site_title = "Jaded Ledger"
    index_title = "Staff pages"
    site_url = "/"
    enable_nav_sidebar = False

    def get_app_list(self, request: HttpRequest, app_label: str | None = None) -> list[Any]:
        """Return what the first page lists; the queue's package goes by what it is for."""
        found = super().get_app_list(request, app_label)
        for app in found:
            if app["app_label"] == "procrastinate":
                app["name"] = "Worker"
                for model in app["models"]:
                    model["name"] = "Jobs"
        return found

    @method_decorator(login_not_required)
    def login(self, request: HttpRequest, extra_context: dict[str, Any] | None = None) -> HttpResponse:
        """Lead to the sign-in that all use. Whoever is signed in and comes here is not staff."""
        if request.user.is_authenticated:
            raise PermissionDenied("These pages are for staff. Ask whoever runs this installation.")
        return redirect_to_login(request.GET.get("next", request.get_full_path()))
