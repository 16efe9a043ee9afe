from django.urls import path

from jaded_ledger.watch import calendar_views, views, watch_views

app_name = "watch"
urlpatterns = [
    path("", views.show, name="morning"),
    path("why", views.why, name="why"),
    path("updating", views.updating, name="updating"),
    path("act", views.act, name="act"),
    path("marks/<int:pk>/undo", views.undo_mark, name="undo-mark"),
    path("done", views.done, name="done"),
    path("hour", watch_views.hour, name="hour"),
    path("watch/<int:pk>", watch_views.watch_search, name="watch"),
    path("unsubscribe/<str:key>", watch_views.unsubscribe, name="unsubscribe"),
    path("calendar", calendar_views.renew_calendar, name="renew-calendar"),
    path("calendar/<str:key>.ics", calendar_views.calendar, name="calendar"),
]
