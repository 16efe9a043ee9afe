"""Coming in and going out, and the signed-in user's own page."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import views as auth
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse_lazy
from django.views.decorators.http import require_http_methods

from jaded_ledger.accounts import two_factor
from jaded_ledger.accounts.audit import note_of
from jaded_ledger.accounts.phone_field import phone_as_printed
from jaded_ledger.accounts.scope import user_of
from jaded_ledger.web.sentences import sentence_of


class SignIn(auth.LoginView):
    template_name = "accounts/sign_in.html"
    redirect_authenticated_user = True
    extra_context = {"elsewhere": settings.SINGLE_SIGN_ON}


sign_out = two_factor.open_without(auth.LogoutView.as_view())


class _ChangePassword(auth.PasswordChangeView):
    template_name = "accounts/password.html"
    success_url = reverse_lazy("accounts:you")
    extra_context = {"place": "you"}

    def form_valid(self, form: Any) -> HttpResponse:
        answer = super().form_valid(form)
        note_of(user_of(self.request), "changed the password", self.request)
        messages.success(self.request, "Your password is changed. Wherever else you were signed in, you no longer are.")
        return answer


change_password = _ChangePassword.as_view()


@require_http_methods(["GET", "POST"])
def you(request: HttpRequest) -> HttpResponse:
    """Show who is signed in, their phone number and the shortcut setting."""
    user = user_of(request)
    error, typed = "", user.phone
    if request.method == "POST":
        user.single_key_shortcuts = "single_key_shortcuts" in request.POST
        typed = request.POST.get("phone", user.phone)
        try:
            user.phone = phone_as_printed(typed)
        except ValueError as wrong:
            error = sentence_of(wrong)
        else:
            user.save(update_fields=["single_key_shortcuts", "phone"])
            messages.success(request, "Saved.")
            return redirect("accounts:you")
    context = {"place": "you", "has_second_factor": two_factor.is_set_up(user), "error": error, "phone": typed}
    return render(request, "accounts/you.html", context, status=400 if error else 200)
