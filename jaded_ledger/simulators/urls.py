from django.urls import path

from jaded_ledger.simulators import mailbox_views

app_name = "simulators"
urlpatterns = [
    path("", mailbox_views.mailbox, name="mailbox"),
    path("<int:pk>/", mailbox_views.kept_mail, name="mail"),
    path("<int:pk>/html", mailbox_views.as_html, name="mail-html"),
    path("<int:pk>.eml", mailbox_views.whole, name="mail-whole"),
]
