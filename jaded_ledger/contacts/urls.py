from django.urls import path

from jaded_ledger.contacts import do_not_contact_views, views

app_name = "contacts"
urlpatterns = [
    path("sent/", views.sent, name="sent"),
    path("do-not-contact/", do_not_contact_views.do_not_contact, name="do-not-contact"),
    path("do-not-contact/<int:pk>/end", do_not_contact_views.end_do_not_contact, name="end-do-not-contact"),
    path("contacts/<str:key>/", views.contacts, name="contacts"),
]
