from django.urls import path

from jaded_ledger.outreach import views

app_name = "outreach"
urlpatterns = [
    path("", views.sent, name="sent"),
    path("labels/<str:key>/", views.labels, name="labels"),
    path("contacts/<str:key>/", views.contacts, name="contacts"),
]
