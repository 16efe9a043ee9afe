"""The pages on which a second factor is set up, and shown."""

from __future__ import annotations

from django.conf import settings
from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import redirect, render, resolve_url
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_http_methods

from jaded_ledger.accounts import two_factor
from jaded_ledger.accounts.audit import note_of
from jaded_ledger.accounts.scope import user_of

_WRONG_PASSWORD = "That is not your password. Nothing was changed."  # noqa: S105


def _back(request: HttpRequest) -> str:
    """Return where somebody wanted to go."""
    wanted = request.POST.get("next") or request.GET.get("next", "")
    is_ours = url_has_allowed_host_and_scheme(wanted, {request.get_host()}, require_https=request.is_secure())
    return wanted if is_ours else resolve_url(settings.LOGIN_REDIRECT_URL)


@two_factor.open_without
@require_http_methods(["GET", "POST"])
def code(request: HttpRequest) -> HttpResponse:
    """Ask for a code after the password."""
    if two_factor.passes(request):
        return HttpResponseRedirect(_back(request))
    if not two_factor.is_set_up(user_of(request)):
        return redirect("accounts:two-factor")
    error = ""
    if request.method == "POST":
        if two_factor.verify(request, request.POST.get("code", "")[:40]):
            if not two_factor.codes_left(user_of(request)):
                messages.warning(request, "That was your last recovery code. Make new ones, here: You, then Second factor.")
            return HttpResponseRedirect(_back(request))
        seconds = two_factor.wait_for(user_of(request))
        error = "That is not a code of yours, or it was used already." + (
            f" The next one is taken in {seconds} second{'s' if seconds > 1 else ''}." if seconds else ""
        )
    return render(request, "accounts/code.html", {"error": error, "next": _back(request)}, status=400 if error else 200)


@two_factor.open_without
@require_http_methods(["GET", "POST"])
def set_up(request: HttpRequest) -> HttpResponse:
    """Set a second factor up, make new recovery codes, or take it away."""
    user = user_of(request)
    if two_factor.is_set_up(user) and not two_factor.passes(request):
        return redirect("accounts:code")
    error, codes = "", list[str]()
    if request.method == "POST":
        do = request.POST.get("do")
        if do == "finish":
            codes = two_factor.finish(user, request.POST.get("code", "")[:40])
            error = "" if codes else "That is not the code that the authenticator shows now. Look at it again, and type the next."
            if codes:
                two_factor.mark_verified(request)
                note_of(user, "set up a second factor", request)
        elif not user.check_password(request.POST.get("password", "")):
            error = _WRONG_PASSWORD
        elif do == "codes" and two_factor.is_set_up(user):
            codes = two_factor.fresh_codes(user)
            note_of(user, "made new recovery codes", request)
        elif do == "take-away":
            if two_factor.is_required(user):
                raise PermissionDenied("Your role needs a second factor, so it stays.")
            two_factor.take_away(user)
            note_of(user, "took the second factor away", request)
            messages.success(request, "You sign in with your password alone now.")
            return redirect("accounts:you")
    is_there = two_factor.is_set_up(user)
    context = {"place": "you", "error": error, "codes": codes, "is_there": is_there, "is_required": two_factor.is_required(user),
               "left": two_factor.codes_left(user), "next": _back(request)}  # fmt: skip
    if not is_there:
        device = two_factor.begin(user)
        context |= {"picture": two_factor.picture_of(device), "secret": two_factor.secret_of(device)}
    return render(request, "accounts/two_factor.html", context, status=400 if error else 200)
