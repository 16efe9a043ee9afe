from django.urls import path

from jaded_ledger.watch import views

app_name = "watch"
urlpatterns = [
    path("", views.morning, name="morning"),
    path("calendar", views.renew_calendar, name="renew-calendar"),
    path("calendar/<str:key>.ics", views.calendar, name="calendar"),
]
