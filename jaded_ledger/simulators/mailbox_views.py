"""The mailbox that ships with the application: what the team sent, to read as it would have arrived."""

from __future__ import annotations

from email import message_from_bytes
from email.message import EmailMessage
from email.policy import default

from csp.decorators import csp_replace
from django.conf import settings
from django.core.paginator import Paginator
from django.db.models import QuerySet
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET

from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.simulators.models import KeptMail

PAGE = 50
HEADERS = ("From", "To", "Reply-To", "Subject", "Date", "List-Unsubscribe", "List-Unsubscribe-Post")


def _mails_of(scope: Scope) -> QuerySet[KeptMail]:
    return KeptMail.objects.filter(team=scope.team)


def _read(kept: KeptMail) -> EmailMessage:
    return message_from_bytes(bytes(kept.message), policy=default)


def _part(message: EmailMessage, kind: str) -> str:
    part = message.get_body((kind,))
    return str(part.get_content()) if part else ""


@require_GET
def mailbox(request: HttpRequest) -> HttpResponse:
    """What the team sent, the latest first."""
    page = Paginator(_mails_of(scope_of(request)).defer("message"), PAGE).get_page(whole_number(request.GET.get("page")) or 1)
    leaves = not settings.EMAIL_BACKEND.endswith("mailbox.Mailbox")
    return render(request, "simulators/mailbox.html", {"place": "morning", "page": page, "leaves": leaves})


@require_GET
def kept_mail(request: HttpRequest, pk: int) -> HttpResponse:
    """One mail: its headers, and its text as a reader without pictures shows it."""
    kept = get_object_or_404(_mails_of(scope_of(request)), pk=pk)
    message = _read(kept)
    headers = [(name, str(message[name])) for name in HEADERS if message[name]]
    context = {"place": "morning", "kept": kept, "headers": headers, "text": _part(message, "plain")}
    return render(request, "simulators/mail.html", context)


@require_GET
@csp_replace({"sandbox": ["allow-top-navigation-by-user-activation", "allow-popups"], "script-src": ["'none'"]})  # type: ignore[arg-type]
def as_html(request: HttpRequest, pk: int) -> HttpResponse:
    """A mail's HTML, which runs nothing."""
    kept = get_object_or_404(_mails_of(scope_of(request)), pk=pk)
    html = _part(_read(kept), "html")
    if not html:
        raise Http404("the mail has no HTML")
    return HttpResponse(html)


@require_GET
def whole(request: HttpRequest, pk: int) -> HttpResponse:
    """A mail as it would have left, for a mail program."""
    kept = get_object_or_404(_mails_of(scope_of(request)), pk=pk)
    answer = HttpResponse(bytes(kept.message), content_type="message/rfc822")
    answer["Content-Disposition"] = f'attachment; filename="mail-{kept.pk}.eml"'
    return answer
